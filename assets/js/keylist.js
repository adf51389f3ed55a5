// What every key does; opened by “?”. Built here, since no key does anything without scripts.
const KEYS = [
  ["1 – 9", inWords("go to a stage")],
  ["/", inWords("find a food or a recipe")],
  ["w", inWords("open or close the tape")],
  ["← → ↑ ↓", inWords("walk from meal to meal, from pot to pot")],
  ["m c", inWords("move or copy a meal: arrows, then Enter")],
  ["x a p", inWords("choose a meal, choose all, pin")],
  ["Del", inWords("take a meal out")],
  ["Ctrl S", inWords("save what you typed")],
  ["Alt ↑ ↓", inWords("move an ingredient")],
  ["Esc", inWords("let go, close, leave a field")],
  ["?", inWords("these keys")],
];

function made(name, inside, fields = {}) {
  const element = Object.assign(document.createElement(name), fields);
  element.append(...[inside].flat());
  return element;
}

const caps = (keys) => keys.split(/( )/).map((key) => (/[ –]/.test(key) ? key : made("kbd", key)));
const rows = KEYS.map(([keys, what]) => made("div", [made("dt", caps(keys)), made("dd", what)]));
const single = made("input", [], { type: "checkbox", checked: true });
single.dataset.singleKeys = "";
const close = made("form", made("button", inWords("Close"), { className: "btn small" }), { method: "dialog" });
const tick = made("label", [single, inWords("keys of one letter or digit are on")], { className: "tick" });
const title = made("h2", inWords("Keys"), { id: "keys-title" });
const dialog = made("dialog", [title, made("dl", rows), tick, close], { id: "keys", className: "keys" });
dialog.setAttribute("aria-labelledby", title.id);
document.body.append(dialog);
