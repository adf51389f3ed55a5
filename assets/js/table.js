// Today without a connection. What is pressed counts at once on this phone, waits here and goes out when there is one; each
// thing carries an id of its own, so that sending it again does nothing. The page itself is kept for a reload.
const KEY = "table",
  WAIT_MS = 4000,
  HANGS_MS = 15_000;
const store = {
  read: () => JSON.parse(localStorage.getItem(KEY) ?? "[]"),
  write: (said) => localStorage.setItem(KEY, JSON.stringify(said)),
};
const here = () => document.querySelector(".todaycols[data-today]");
const isAway = () => !navigator.onLine || document.documentElement.dataset.line === "away";
let isSending = false;

function tell() {
  const place = document.getElementById("tablewaits");
  if (!place) return;
  const count = store.read().length;
  place.hidden = !count;
  if (count)
    place.textContent =
      count === 1
        ? inWords("Not connected: 1 thing waits on this phone.")
        : inWords("Not connected: {count} things wait on this phone.", { count });
}

// What was said shows at its place, though the app does not know it yet.
function show({ action, body, words }) {
  const fields = new URLSearchParams(body);
  const subject = fields.get("subject");
  for (const form of here()?.querySelectorAll(`form[action="${CSS.escape(action)}"]`) ?? []) {
    const tick = form.querySelector(".jobtick");
    if (tick && form.elements.subject.value === subject) {
      tick.setAttribute("aria-pressed", fields.get("is_done") === "1");
      tick.value = fields.get("is_done") === "1" ? "0" : "1";
      form.closest(".job").toggleAttribute("data-waits", true);
      form.closest(".job").classList.toggle("ticked", fields.get("is_done") === "1");
    } else if (!tick) {
      const card = form.closest(".mealcard, .slips, .tonight");
      card?.toggleAttribute("data-waits", true);
      let note = card?.querySelector(".waitnote");
      if (card && !note) {
        note = Object.assign(document.createElement("p"), { className: "waitnote" });
        card.append(note);
      }
      if (note) note.textContent = inWords("{what}: sent when there is a connection.", { what: words });
      break;
    }
  }
}

async function send() {
  if (isSending) return;
  isSending = true;
  let has_sent = false;
  try {
    for (let said = store.read()[0]; said; said = store.read()[0]) {
      const headers = { "content-type": "application/x-www-form-urlencoded" };
      const signal = AbortSignal.timeout(HANGS_MS);
      const answer = await fetch(said.action, { method: "POST", body: said.body, headers, redirect: "manual", signal });
      if (answer.status >= 500 || answer.status === 429) throw new Error(`${answer.status}`);
      store.write(store.read().slice(1));
      has_sent = true;
      if (answer.status === 403) document.getElementById("said").textContent = inWords("Sign in again, then say it once more.");
    }
  } catch {
    setTimeout(send, WAIT_MS);
  } finally {
    isSending = false;
    tell();
  }
  if (has_sent && here() && !store.read().length)
    htmx.ajax("GET", location.pathname + location.search, { target: "#app", select: "#app", swap: "outerHTML" });
}

document.addEventListener(
  "submit",
  (event) => {
    const form = event.target;
    if (form.getAttribute("action")?.includes("/sign-out")) localStorage.removeItem(KEY);
    if (!here()?.contains(form) || !isAway()) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const body = new URLSearchParams(new FormData(form, event.submitter)).toString();
    const words = event.submitter?.textContent.trim() || form.querySelector("button")?.textContent.trim() || "";
    const said = { action: form.getAttribute("action"), body, words };
    store.write([...store.read(), said]);
    if (form.elements.event) form.elements.event.value = crypto.randomUUID?.() ?? form.elements.event.value;
    form.reset();
    show(said);
    tell();
    setTimeout(send, WAIT_MS);
  },
  true,
);

async function keep() {
  if (!here() || !("caches" in window) || !navigator.serviceWorker) return;
  await navigator.serviceWorker.register("/today/worker.js", { scope: "/today" });
  const kept = await caches.open("good-crate-list");
  const looks = [...document.querySelectorAll('link[rel="stylesheet"], link[rel="preload"], script[src]')];
  await kept.addAll(looks.map((element) => element.href || element.src));
  const page = await fetch(location.pathname + location.search);
  if (page.ok && !page.redirected) await kept.put(location.pathname + location.search, page);
}

function begin() {
  if (!here()) return;
  for (const said of store.read()) show(said);
  tell();
  if (store.read().length) send();
  keep().catch(() => {});
}

document.addEventListener("htmx:after:swap", begin);
window.addEventListener("online", send);
begin();
