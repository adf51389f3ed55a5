// Drafts: what is typed into a form marked data-draft survives a reload, a lost connection and a dead tablet.
// Fields that existed on the page are put back; the server's newer version of the same form is never overwritten in silence.
const PREFIX = "draft:";

const fields = (form) =>
  [...form.elements].filter(
    (f) => f.name && f.name !== "csrf" && f.type !== "hidden" && f.dataset.noDraft === undefined,
  );
const ticks = (f) => f.type === "checkbox" || f.type === "radio";
const values = (form) => fields(form).map((f) => [f.name, ticks(f) ? String(f.checked) : f.value]);
const read = (key) => {
  try {
    return JSON.parse(localStorage.getItem(PREFIX + key));
  } catch {
    return null;
  }
};
const write = (key, value) => {
  try {
    localStorage.setItem(PREFIX + key, JSON.stringify(value));
  } catch {
    /* full or private */
  }
};
const forget = (key) => {
  try {
    localStorage.removeItem(PREFIX + key);
  } catch {
    /* nothing kept */
  }
};

function rowsOf(form) {
  const holder = form.querySelector("[data-draft-rows]");
  return holder ? holder.innerHTML : null;
}

function offer(form) {
  if (form.dataset.draftSeen) return;
  form.dataset.draftSeen = "yes"; // what is typed from now on is no earlier draft
  const key = form.dataset.draft,
    draft = read(key);
  if (!draft) return;
  if (draft.version !== (form.elements.version?.value ?? "")) {
    forget(key);
    return;
  }
  const bar = form.querySelector("[data-draft-bar]");
  if (!bar || JSON.stringify(draft.values) === JSON.stringify(values(form))) return;
  bar.hidden = false;
  bar.querySelector("[data-draft-restore]").onclick = () => {
    restore(form, draft);
    bar.hidden = true;
  };
  bar.querySelector("[data-draft-drop]").onclick = () => {
    forget(key);
    bar.hidden = true;
  };
}

function restore(form, draft) {
  const holder = form.querySelector("[data-draft-rows]");
  if (holder && draft.rows) {
    holder.innerHTML = draft.rows;
    window.htmx?.process(holder);
  }
  const byName = new Map();
  for (const [name, value] of draft.values) byName.set(name, [...(byName.get(name) ?? []), value]);
  for (const field of fields(form)) {
    const value = byName.get(field.name)?.shift();
    if (value === undefined) continue;
    if (ticks(field)) field.checked = value === "true";
    else field.value = value;
  }
  form.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("input", (event) => {
  const form =
    event.target.closest?.("form[data-draft]") ?? (event.target.matches?.("form[data-draft]") ? event.target : null);
  if (form)
    write(form.dataset.draft, {
      version: form.elements.version?.value ?? "",
      values: values(form),
      rows: rowsOf(form),
    });
});

// A save that came through leaves the page of its form, or shows a newer version of it: the draft is then of no use.
let sent = null;
document.addEventListener(
  "submit",
  (event) => {
    const form = event.target.closest?.("form[data-draft]");
    sent = form ? form.dataset.draft : sent;
    if (form)
      try {
        sessionStorage.setItem("sent", sent);
      } catch {
        /* private */
      }
  },
  true,
);
function forgetSent() {
  try {
    sent ??= sessionStorage.getItem("sent");
  } catch {
    /* private */
  }
  if (!sent || document.querySelector(`form[data-draft="${CSS.escape(sent)}"]`) || !document.querySelector("#app"))
    return;
  forget(sent);
  sent = null;
  try {
    sessionStorage.removeItem("sent");
  } catch {
    /* private */
  }
}
// Whoever signs out leaves nothing typed behind in the browser.
document.addEventListener(
  "submit",
  (event) => {
    if (!event.target.matches?.('form[action="/sign-out"], form[action="/account/sign-out-everywhere"]')) return;
    try {
      Object.keys(localStorage)
        .filter((key) => key.startsWith(PREFIX))
        .forEach((key) => localStorage.removeItem(key));
      sessionStorage.clear();
    } catch {
      /* private */
    }
  },
  true,
);
const offerAll = () => {
  forgetSent();
  document.querySelectorAll("form[data-draft]").forEach(offer);
};
document.addEventListener("htmx:after:swap", offerAll);
document.addEventListener("click", (event) => {
  const remove = event.target.closest("[data-remove-row]");
  if (!remove) return;
  const form = remove.closest("form"),
    row = remove.closest("[data-row]");
  const beside = [row.nextElementSibling, row.previousElementSibling].map((one) => one?.querySelector("[data-remove-row]"));
  const around = row.parentElement.closest("section, form");
  row.remove();
  form?.dispatchEvent(new Event("input", { bubbles: true }));
  (beside.find(Boolean) ?? around?.querySelector("[data-finder], .addrow button, summary, button"))?.focus();
});
offerAll();
