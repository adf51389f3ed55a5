// What is typed and not yet sent stays, whatever answer lands meanwhile: only the form that was sent is answered. Forms with
// drafts keep their own: what they hold is saved already, and an undo must bring back what stood there.
const TEXTS = 'input:not([type="hidden"]):not([type="checkbox"]):not([type="radio"]):not([type="file"]), textarea';
const nameOf = (field) => `${field.form.getAttribute("action")}|${field.name}`;
const unsent = (sent) =>
  [...document.querySelectorAll(`main form[method="post"]:not([data-draft]) :is(${TEXTS})`)].filter(
    (field) => field.name && field.form !== sent && field.value !== field.defaultValue,
  );
let kept = [],
  inUse = null,
  resets = "";

document.addEventListener("htmx:before:swap", ({ detail: { ctx } }) => {
  const sent = ctx.sourceElement?.closest?.("form");
  resets = sent?.dataset.resets ?? "";
  kept = unsent(sent).map((field) => [nameOf(field), field.value]);
  const at = document.activeElement;
  inUse = at?.form && at.form !== sent && at.matches(TEXTS) ? [nameOf(at), at.selectionStart] : null;
});

document.addEventListener("htmx:after:swap", () => {
  if (resets) document.querySelector(resets)?.reset();
  resets = "";
  if (!kept.length && !inUse) return;
  const fields = [...document.querySelectorAll(`main form[method="post"]:not([data-draft]) :is(${TEXTS})`)];
  for (const [name, value] of kept) {
    const field = fields.find((other) => nameOf(other) === name);
    if (field && field.value === field.defaultValue) field.value = value;
  }
  const back = inUse && fields.find((field) => nameOf(field) === inUse[0]);
  if (back && document.activeElement !== back) {
    back.focus();
    back.setSelectionRange?.(inUse[1], inUse[1]);
  }
  kept = [];
  inUse = null;
});
