// The line to the app. While an answer is awaited the page says so. An answer that is our fault, or none at all, leaves
// the page as it is: what was typed stays, a bar says what to do, and what was sent is sent again when the line is back.
// Sending twice is safe: every form carries the ids of what it makes.
const bar = document.getElementById("lost");
const root = document.documentElement;
const ASK_EVERY_MS = 4000,
  SLOW_MS = 300;
const waiting = new Map(); // form → the button it was sent with
const pressed = new WeakMap();
let asking = 0,
  underway = 0;

function say(title, text) {
  bar.querySelector("b").textContent = title;
  bar.querySelector("span").textContent = text;
  bar.hidden = false;
}

function away() {
  root.dataset.line = "away";
  const kept = waiting.size
    ? inWords("What you sent is kept here and goes out by itself when the line is back.")
    : inWords("What you type stays here and is sent when the line is back.");
  say(inWords("Not connected"), kept);
  for (const mark of document.querySelectorAll("#saved"))
    mark.replaceChildren(
      Object.assign(document.createElement("span"), {
        className: "notyet",
        textContent: inWords("Not saved: not connected"),
      }),
    );
  clearTimeout(asking);
  asking = setTimeout(ask, ASK_EVERY_MS);
}

// Whether the app answers is asked of the app: a browser only knows of its own cable.
async function ask() {
  try {
    const answer = await fetch("/static/crate.svg", { method: "HEAD", cache: "no-store" });
    if (answer.ok) back();
    else away();
  } catch {
    away();
  }
}

function back() {
  if (root.dataset.line !== "away") return;
  delete root.dataset.line;
  bar.hidden = true;
  document.getElementById("said").textContent = inWords("Connected again.");
  const again = [...waiting];
  waiting.clear();
  for (const [form, button] of again) {
    if (!form.isConnected) continue;
    if (button?.isConnected) form.requestSubmit(button);
    else form.requestSubmit();
  }
  for (const form of document.querySelectorAll("form[data-typed]"))
    form.dispatchEvent(new Event("input", { bubbles: true }));
}

window.addEventListener("offline", away);
window.addEventListener("online", ask);
if (!navigator.onLine) away();

document.addEventListener(
  "submit",
  (event) => {
    pressed.set(event.target, event.submitter);
  },
  true,
);

document.addEventListener("htmx:error", ({ detail: { ctx } }) => {
  if (!ctx || ctx.response) return;
  const form = ctx.sourceElement;
  if (ctx.request.method !== "GET" && form?.matches?.("form")) waiting.set(form, pressed.get(form));
  away();
});

document.addEventListener("htmx:response:error", ({ detail: { ctx } }) => {
  if (ctx.response.status < 500) return;
  const page = new DOMParser().parseFromString(ctx.text, "text/html");
  const title = page.querySelector("h1")?.textContent ?? inWords("Something broke");
  const text =
    page.querySelector("[data-kept]")?.textContent ??
    inWords("What you typed is still here. Wait a moment and try again.");
  say(title, text);
});

document.addEventListener("htmx:before:request", ({ detail: { ctx } }) => {
  underway += 1;
  ctx.isCounted = true;
  setTimeout(() => {
    if (underway > 0) root.dataset.busy = "";
  }, SLOW_MS);
});
document.addEventListener("htmx:finally:request", ({ detail: { ctx } }) => {
  if (ctx.isCounted) underway -= 1;
  if (underway <= 0) {
    underway = 0;
    delete root.dataset.busy;
  }
});
document.addEventListener("htmx:after:request", ({ detail: { ctx } }) => {
  if (!ctx.response) return;
  if (root.dataset.line === "away") back();
  else if (ctx.response.status < 500) bar.hidden = true;
});
bar.querySelector("button").addEventListener("click", () => {
  bar.hidden = true;
});
