// The list at the shelf. A tick counts at once on this phone, waits here while there is no connection, and goes out when there
// is; what the other phones say comes in. Each tick has an id of its own, so that sending it again does nothing.
const KEY = "shelf";
const ASK_EVERY_MS = 700,
  WAIT_MS = 4000,
  HANGS_MS = 15_000, // an answer that takes longer does not come: a shop's walls swallow it
  MEANT_MS = 1000; // a tap so soon after the other phone's tick was on its way to tick it too, not to take it back
const inTime = () => AbortSignal.timeout(HANGS_MS);
const store = {
  read: () => JSON.parse(localStorage.getItem(KEY) ?? "[]"),
  write: (ticks) => localStorage.setItem(KEY, JSON.stringify(ticks)),
};
const shelf = () => document.getElementById("shelf");
const rowOf = (food) => document.querySelector(`tr[data-food="${CSS.escape(food)}"]`);
const mine = () => store.read().filter((tick) => tick.day === shelf()?.dataset.shelf);
const cameAt = new Map(); // food → when another phone's tick arrived here
let isSending = false,
  isAsking = false;

function show(food, state, told, isWaiting = false) {
  const row = rowOf(food);
  const box = row?.querySelector(".tickbox");
  if (!box) return;
  row.dataset.state = state;
  row.toggleAttribute("data-waits", isWaiting);
  row.querySelector(".told").textContent = told;
  const isDone = state === "bought";
  box.setAttribute("aria-pressed", isDone);
  box.value = `${food}|${isDone ? "open" : box.dataset.grams}`;
}

function tell() {
  const waiting = mine().length;
  const place = document.getElementById("waits");
  if (!place) return;
  place.hidden = !waiting;
  if (waiting)
    place.textContent =
      waiting === 1
        ? inWords("Not connected: 1 tick waits on this phone.")
        : inWords("Not connected: {count} ticks wait on this phone.", { count: waiting });
}

function take(answer) {
  const form = shelf();
  if (!form) return;
  form.dataset.seq = Math.max(form.dataset.seq, answer.seq);
  const waiting = new Set(mine().map((tick) => tick.food));
  for (const [food, { state, told }] of Object.entries(answer.rows)) {
    if (waiting.has(food)) continue;
    if (state === "bought" && rowOf(food)?.dataset.state === "open") cameAt.set(food, performance.now());
    show(food, state, told);
  }
  if (answer.basket)
    document.getElementById("basket")?.replaceWith(document.createRange().createContextualFragment(answer.basket));
  if (answer.changed || Object.keys(answer.rows).some((food) => !rowOf(food))) again();
}

// Another phone took something else: the list itself is another one now.
function again() {
  if (document.querySelector("dialog[open]") || mine().length) return;
  htmx.ajax("GET", location.pathname, { target: "#app", select: "#app", swap: "outerHTML" });
}

async function send() {
  if (isSending) return;
  isSending = true;
  try {
    for (let tick = store.read()[0]; tick; tick = store.read()[0]) {
      const form = shelf();
      const csrf = form?.elements.csrf.value ?? tick.csrf;
      const isHere = form?.dataset.shelf === tick.day;
      const { day, ...sent } = tick;
      const fields = new URLSearchParams({ ...sent, csrf, since: isHere ? form.dataset.seq : "0" });
      const headers = { accept: "application/json" };
      const sending = { method: "POST", body: fields, headers, redirect: "error", signal: inTime() };
      const answer = await fetch(`/shop/${day}/ticks`, sending);
      if (answer.status >= 500 || answer.status === 429) throw new Error(`${answer.status}`);
      store.write(store.read().filter((other) => other.event !== tick.event));
      if (answer.status === 422 || answer.status === 404)
        refused(tick, answer.status === 422 ? (await answer.json()).fault : "");
      else if (answer.status === 200 && isHere) take(await answer.json());
      else if (answer.status === 403 || answer.status === 401)
        refused(tick, inWords("Sign in again, then tick it once more."));
    }
    setTimeout(tell, 0);
  } catch {
    tell();
    setTimeout(send, WAIT_MS);
  } finally {
    isSending = false;
  }
}

function refused(tick, fault) {
  show(tick.food, "open", fault || inWords("This could not be noted."));
}

function note(food, kind, more = {}) {
  const day = shelf().dataset.shelf;
  const event =
    crypto.randomUUID?.() ??
    "10000000-1000-4000-8000-100000000000".replace(/[018]/g, (c) =>
      (c ^ (crypto.getRandomValues(new Uint8Array(1))[0] & (15 >> (c / 4)))).toString(16),
    );
  const csrf = shelf().elements.csrf.value;
  store.write([...store.read(), { day, event, food, kind, csrf, ...more }]);
  show(food, kind, "", true);
  send();
}

document.addEventListener(
  "click",
  (event) => {
    const box = event.target.closest(".tickbox");
    if (box) {
      event.preventDefault();
      const { food, state } = box.closest("tr").dataset;
      if (state === "bought" && performance.now() - cameAt.get(food) < MEANT_MS) return;
      if (state === "bought") note(food, "open");
      else note(food, "bought", box.dataset.grams ? { grams: box.dataset.grams } : {});
      return;
    }
    const name = event.target.closest(".shoplist tr[data-food] th a");
    if (name && name.closest("tr").querySelector(".tickbox") && matchMedia("(max-width: 900px)").matches) {
      event.preventDefault();
      event.stopPropagation();
      open(name);
    }
  },
  true,
);

// What else can be said of a food: another amount, what it cost, that it was not there.
function open(name) {
  const row = name.closest("tr"),
    dialog = document.getElementById("atshelf");
  dialog.dataset.food = row.dataset.food;
  dialog.querySelector("h2").textContent = name.textContent;
  dialog.querySelector("#atshelf-buy").textContent = row.querySelector(".buy").textContent.trim();
  dialog.querySelector('[name="grams"]').value = row.querySelector(".tickbox").dataset.grams;
  dialog.querySelector('[name="price"]').value = "";
  dialog.querySelector("a").href = `${name.getAttribute("href")}#instead`;
  dialog.returnValue = "";
  dialog.showModal();
}

document.addEventListener(
  "close",
  (event) => {
    const dialog = event.target;
    if (dialog.id !== "atshelf" || !dialog.returnValue) return;
    const [grams, price] = ["grams", "price"].map((field) => dialog.querySelector(`[name="${field}"]`).value.trim());
    const isBought = dialog.returnValue === "bought";
    const more = isBought ? { ...(grams && { grams }), ...(price && { price }) } : {};
    note(dialog.dataset.food, dialog.returnValue, more);
  },
  true,
);

async function ask() {
  const form = shelf();
  if (!form || document.hidden || isAsking || isSending) return;
  isAsking = true;
  try {
    const asking = { redirect: "error", signal: inTime() };
    const answer = await fetch(`/shop/${form.dataset.shelf}/news?since=${form.dataset.seq}`, asking);
    if (answer.status === 200) take(await answer.json());
  } catch {
    // no connection: asked again
  } finally {
    isAsking = false;
  }
}

// The page and what it looks like are kept for when there is no connection, by the browser and for this household only.
async function keep() {
  if (!shelf() || !("caches" in window) || !navigator.serviceWorker) return;
  await navigator.serviceWorker.register("/shop/worker.js", { scope: "/shop" });
  const kept = await caches.open("good-crate-list");
  const looks = [...document.querySelectorAll('link[rel="stylesheet"], link[rel="preload"], script[src]')];
  await kept.addAll(looks.map((element) => element.href || element.src));
  const page = await fetch(location.pathname);
  if (page.ok && !page.redirected) await kept.put(location.pathname, page);
}

function begin() {
  if (!shelf()) return;
  for (const tick of mine()) show(tick.food, tick.kind, "", true);
  if (mine().length) send();
  keep().catch(() => {});
}

document.addEventListener("htmx:after:swap", begin);
document.addEventListener(
  "submit",
  (event) => {
    if (event.target.getAttribute("action")?.includes("/sign-out")) {
      localStorage.removeItem(KEY);
      window.caches?.delete("good-crate-list");
    }
  },
  true,
);
window.addEventListener("online", send);
setInterval(ask, ASK_EVERY_MS);
begin();
