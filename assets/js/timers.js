// Cooking: timers count down by the server's clock, whatever this one says; one that is up flashes and sounds.
let ahead = 0; // how far the server's clock is ahead of this one, ms
const heard = new Set();
let sound = null;
let told = null; // what the server tells of changes, and where it is asked
let toldAt = "";

function listen() {
  const at = document.getElementById("run")?.dataset.told ?? "";
  const lost = told?.readyState === EventSource.CLOSED; // refused: it is asked again; a line that broke mends itself
  if (at === toldAt && !lost) return;
  told?.close();
  toldAt = lost ? "" : at; // after a refusal not at once
  told = at && !lost ? new EventSource(at) : null;
  told?.addEventListener("message", () => document.getElementById("run")?.dispatchEvent(new CustomEvent("toldof")));
}

// What rings and notifies needs a tap first: browsers' rule.
document.addEventListener("pointerdown", () => {
  if (!document.getElementById("run")) return;
  sound ??= new AudioContext();
  sound.resume();
});
document.addEventListener("click", async (event) => {
  const asks = event.target.closest("[data-notify]");
  if (asks) asks.hidden = (await Notification.requestPermission()) !== "default";
});

function readClock() {
  const said = Number(document.getElementById("run")?.dataset.clock);
  if (!said) return;
  ahead = said - Date.now();
  for (const [name, words] of Object.entries(document.getElementById("run").dataset)) {
    const shown = document.querySelector(`header .${name}`); // the head is not swapped: it keeps its focus
    if (shown) shown.textContent = words;
  }
}

function ring(what) {
  try {
    sound ??= new AudioContext();
    for (const at of [0, 0.35, 0.7]) {
      const tone = sound.createOscillator();
      tone.frequency.value = 880;
      tone.connect(sound.destination);
      tone.start(sound.currentTime + at);
      tone.stop(sound.currentTime + at + 0.18);
    }
  } catch {
    /* not allowed without a tap: it flashes */
  }
  if (globalThis.Notification?.permission === "granted" && document.hidden) {
    new Notification(what, { body: document.title });
  }
}

function count() {
  for (const timer of document.querySelectorAll(".timer")) {
    const left = Math.ceil((Number(timer.dataset.ends) - Date.now() - ahead) / 1000);
    const shown = `${Math.floor(Math.abs(left) / 60)}:${String(Math.abs(left) % 60).padStart(2, "0")}`;
    timer.querySelector(".left b").textContent = left < 0 ? `+${shown}` : shown;
    timer.querySelector(".bar i").style.width = `${Math.min(100, Math.max(0, 100 - (100 * left) / timer.dataset.whole))}%`;
    timer.classList.toggle("up", left <= 0);
    const id = timer.dataset.ends + timer.querySelector("h3").textContent;
    if (left <= 0 && !heard.has(id)) {
      heard.add(id);
      if (left > -30) ring(timer.querySelector("h3").textContent);
    }
  }
}

document.addEventListener("htmx:after:swap", () => {
  readClock();
  count();
});
readClock();
count();
setInterval(count, 250);
setInterval(() => {
  listen();
  const asks = document.querySelector("[data-notify]");
  if (asks) asks.hidden = globalThis.Notification?.permission !== "default";
}, 500);

// The whole row of a step ticks it off, not only its button.
document.addEventListener("click", (event) => {
  const row = event.target.closest(".nowstep");
  if (!row || event.target.closest("button, a, input, .notin, .weighnow") || getSelection()?.toString()) return;
  row.querySelector(".saystep .btn.go")?.click();
});

// The space bar ticks off what is first.
document.addEventListener("keydown", (event) => {
  if (event.key !== " " || event.target.closest("button, input, a, textarea, select")) return;
  const first = document.querySelector(".nowstep.first .saystep .btn.go");
  if (!first) return;
  event.preventDefault();
  first.click();
});
