// A recipe on a phone: one of its parts at a time, and of its components one at a time.
const phone = matchMedia("(max-width: 900px)");
let shown = { recipe: "", part: "", component: "", count: 0 };

const keyOf = (component) => component.querySelector('[name="component"]').value;
const nameOf = (component) => component.querySelector('[name$="-name"]')?.value || inWords("no name yet");

function strip(components, here) {
  const holder = document.getElementById("compstrip");
  holder.hidden = !phone.matches || components.length < 2;
  const names = components.map(nameOf);
  if (holder.dataset.names !== names.join("|")) {
    holder.dataset.names = names.join("|");
    holder.replaceChildren(
      ...components.map((component, n) => {
        const button = Object.assign(document.createElement("button"), {
          type: "button",
          className: "btn small",
          textContent: names[n],
        });
        button.dataset.component = keyOf(component);
        return button;
      }),
    );
  }
  for (const button of holder.children)
    button.setAttribute("aria-pressed", String(button.dataset.component === keyOf(here)));
}

function show() {
  const form = document.getElementById("recipe");
  if (!form?.querySelector(".part")) return;
  if (shown.recipe !== form.action) shown = { recipe: form.action, part: "", component: "", count: 0 };
  form.classList.toggle("parted", phone.matches);
  const parts = [...form.querySelectorAll(".part")];
  const part = parts.find(({ id }) => id === shown.part) ?? parts[0];
  for (const one of parts) one.classList.toggle("here", one === part);
  for (const link of form.querySelectorAll("[data-part]")) {
    if (phone.matches && link.hash === `#${part.id}`) link.setAttribute("aria-current", "true");
    else link.removeAttribute("aria-current");
  }
  const components = [...form.querySelectorAll("#components > .component")];
  if (shown.count && components.length > shown.count) shown.component = keyOf(components.at(-1));
  shown.count = components.length;
  const here = components.find((component) => keyOf(component) === shown.component) ?? components[0];
  for (const one of components) one.classList.toggle("here", one === here);
  if (here) strip(components, here);
}

globalThis.parts = {
  // What is to be focused or looked at is brought to sight first.
  reveal: (element) => {
    shown.part = element?.closest(".part")?.id ?? shown.part;
    const component = element?.closest(".component");
    if (component) shown.component = keyOf(component);
    show();
  },
};

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("#compstrip [data-component]");
  if (!button) return;
  shown.component = button.dataset.component;
  show();
});
document.addEventListener("input", (event) => {
  if (event.target.closest?.("#recipe")) show();
});
document.addEventListener("htmx:after:swap", show);
phone.addEventListener("change", show);
show();
