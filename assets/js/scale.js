// The kitchen scale, live: what it shows fills the box on the screen, and what stands still within its band is accepted.
// A scale that is gone takes nothing away: what it shows is typed then.
let line = null; // server-sent readings, and where they are asked
let lineAt = "";
let reading = null;
let lift = null; // after a box was accepted: the tare it was weighed with, until it is off the scale
let begun = ""; // the box that is being filled: it was seen below its band
let sent = ""; // the form that was sent by itself
let typed = false; // somebody types: the scale leaves the field alone
let waits = ""; // the line that is taken when the scale stands still
let drawn = 0;
let sound = null;
const bench = () => document.querySelector("[data-target][data-low]");
const nothingOn = () => Number(bench()?.dataset.nothing ?? 0);
const whole = (g) => Math.round(g).toLocaleString("en-GB").replace("-", "−");

function listen() {
  const at = document.querySelector("[data-scale]")?.dataset.scale ?? "";
  const lost = line?.readyState === EventSource.CLOSED;
  if (at === lineAt && !lost) return;
  line?.close();
  lineAt = lost ? "" : at;
  line = at && !lost ? new EventSource(at) : null;
  if (!line) reading = null;
  line?.addEventListener("message", (event) => {
    reading = JSON.parse(event.data);
    drawn ||= requestAnimationFrame(draw);
  });
  line?.addEventListener("batch", (event) => follow(event.data));
  line?.addEventListener("error", () => {
    reading = { state: "lost" };
    drawn ||= requestAnimationFrame(draw);
  });
}

// Something was weighed on another device: the bench is shown as it stands now, unless somebody types or sends.
function follow(mark) {
  const page = document.getElementById("bench-live");
  if (!page || page.dataset.mark === mark || document.querySelector(".htmx-request") || typed) return;
  const at = document.activeElement;
  if (at?.matches?.("input, select, textarea") && at.value !== at.defaultValue) return;
  page.dataset.mark = mark;
  htmx.ajax("GET", location.pathname, { target: "#app", select: "#app", swap: "outerMorph" });
}

function csrf() {
  return document.querySelector('[name="csrf"]')?.value ?? "";
}

async function tell(words) {
  try {
    const answer = await fetch("/scale/tell", { method: "POST", body: new URLSearchParams({ csrf: csrf(), words }) });
    if (!answer.ok) say(await answer.text());
    return answer.ok;
  } catch {
    say(inWords("The scale does not answer."));
    return false;
  }
}

function say(words) {
  const said = document.getElementById("said");
  if (said && said.textContent !== words) said.textContent = words;
}

const STATES = {
  live: () => inWords("scale live"),
  lost: () => inWords("scale gone: type what it shows"),
  off: () => inWords("scale is off"),
  over: () => inWords("too much on the scale"),
  garbled: () => inWords("scale makes no sense: type what you see"),
};

function put(element, words) {
  if (element && element.textContent !== words) element.textContent = words;
}

function draw() {
  drawn = 0;
  if (!reading) return;
  const isLive = reading.state === "live";
  const status = document.getElementById("scalesaid");
  if (status) {
    put(status, (STATES[reading.state] ?? STATES.garbled)());
    status.dataset.state = reading.state;
  }
  fillFields(isLive);
  const at = bench();
  if (at) fillBox(at, isLive);
  if (at && isLive) at.dataset.drawnAt = reading.at ?? "";
}

// Fields of a weight that the scale fills while nobody types: net, or gross (with what was tared off).
function fillFields(isLive) {
  weighIn(isLive);
  for (const field of document.querySelectorAll("[data-from-scale]")) {
    if (!isLive || field.dataset.typed || reading.g <= 0 || !reading.stable || field.closest("details:not([open])")) continue;
    const grams = field.dataset.fromScale === "gross" ? reading.g + reading.tare : reading.g;
    const words = String(Math.round(grams * 10) / 10);
    if (field.value === words) continue;
    field.value = words;
    net();
  }
}

function fillBox(at, isLive) {
  const { target, low, high, full } = Object.fromEntries(
    ["target", "low", "high", "full"].map((name) => [name, Number(at.dataset[name])]),
  );
  const figure = at.querySelector("[data-figure]"),
    more = at.querySelector("[data-more]"),
    form = at.querySelector("form[data-accept]");
  if (!more) return; // counted in pieces
  at.classList.toggle("onscale", isLive);
  document.querySelector('[data-bench-key=" "]')?.toggleAttribute("hidden", !isLive || reading.g < 1);
  if (!isLive) {
    put(figure, figure.dataset.typed);
    put(more, inWords("fill to {grams} g", { grams: whole(target) }));
    return;
  }
  const g = reading.g;
  if (lift !== null && (g <= nothingOn() || reading.tare !== lift)) lift = null;
  const lifting = lift !== null;
  const shown = lifting || g < -nothingOn() ? 0 : Math.max(0, g);
  put(figure, whole(g));
  const level = at.querySelector("[data-level]"),
    zone = Number(level.dataset.zone),
    height = Math.min(1, shown / full) * zone;
  level.setAttribute("height", height.toFixed(1));
  level.setAttribute("y", (Number(level.dataset.floor) - height).toFixed(1));
  figures(at, shown);
  at.classList.toggle("inband", !lifting && g >= low && g <= high);
  at.classList.toggle("over", !lifting && g > high);
  const whose = { who: at.dataset.fillFor, day: at.dataset.day };
  if (lifting) put(more, inWords("lift it off, then {who}’s {day} box", whose));
  else if (g < -nothingOn()) put(more, inWords("put {who}’s {day} box on", whose));
  else if (g < low) put(more, inWords("{grams} g more", { grams: whole(target - g) }));
  else if (begun !== at.id && g <= high) put(more, inWords("{who}’s {day} box? Accept it", whose));
  else if (g <= high) put(more, reading.stable ? inWords("that is right") : inWords("right, hold still"));
  else put(more, inWords("{grams} g too much: take some out, or accept it", { grams: whole(g - target) }));
  put(document.querySelector("[data-accept-words]"), inWords("Accept {grams} g as it is", { grams: whole(Math.max(0, g)) }));
  if (!typed && !lifting && g > 0) form.elements.net_g.value = String(Math.round(g * 10) / 10);
  if (!typed && !lifting && g > 0) form.elements.scale_tare.value = String(reading.tare);
  tareKnownBox(at, g);
  if (!lifting && g < low) begun = at.id;
  const isRight = reading.stable && g >= low && g <= high && !lifting && !typed && begun === at.id && !at.dataset.packed;
  if (isRight && sent !== form.id) accept(form);
}

// An empty box whose weight the kitchen knows, with what is in it of other pots, is tared by itself.
function tareKnownBox(at, g) {
  const empty = Number(at.dataset.empty ?? NaN);
  if (!(reading.stable && lift === null && Math.abs(g - empty) <= 2 && empty > nothingOn())) return;
  if (at.dataset.tared === at.id) return;
  at.dataset.tared = at.id;
  tell("tare");
}

function figures(at, g) {
  const kcal = Number(at.dataset.kcal) + Number(at.dataset.kcalPerG) * g,
    protein = Number(at.dataset.protein) + Number(at.dataset.proteinPerG) * g;
  put(at.querySelector("[data-kcal-now]"), `${whole(kcal)} kcal`);
  put(at.querySelector("[data-protein-now]"), `${whole(protein)} g`);
}

function accept(form) {
  sent = form.id;
  form.elements.seen.value = document.getElementById("bench-live").dataset.mark;
  lift = reading?.tare ?? null;
  begun = "";
  beep();
  document.documentElement.classList.add("accepted");
  setTimeout(() => document.documentElement.classList.remove("accepted"), 500);
  form.requestSubmit();
}

function beep() {
  try {
    sound ??= new AudioContext();
    const tone = sound.createOscillator();
    tone.frequency.value = 1320;
    tone.connect(sound.destination);
    tone.start();
    tone.stop(sound.currentTime + 0.12);
  } catch {
    /* not allowed without a tap: it flashes */
  }
}

// An ingredient on the scale: the line that is weighed now runs along, and a tare goes on to the next.
function weighIn(isLive) {
  const form = document.querySelector("form[data-weigh-line]");
  if (!form) return;
  const shows = form.querySelector("[data-weighs]"),
    field = form.elements.net;
  shows.hidden = !isLive;
  if (!isLive) return;
  put(shows.querySelector("b"), whole(reading.g));
  put(shows.querySelector("i"), inWords("{kcal} kcal", { kcal: whole(Number(form.dataset.kcalPerG) * Math.max(0, reading.g)) }));
  const planned = Number(form.dataset.planned);
  const more = planned - reading.g;
  put(
    shows.querySelector("span"),
    more >= 1
      ? inWords("{grams} g more", { grams: whole(more) })
      : more > -1
        ? inWords("as planned")
        : inWords("{grams} g over", { grams: whole(-more) }),
  );
  if (waits === form.id && reading.stable) takeLine();
  if (waits === form.id) put(shows.querySelector("span"), inWords("hold still"));
  shows.classList.toggle("right", Math.abs(more) <= Math.max(1, planned * 0.03));
  if (!field.dataset.typed && reading.g > 0) {
    field.value = String(Math.round(reading.g * 10) / 10);
    form.elements.scale_tare.value = String(reading.tare);
  }
}

function takeLine() {
  const form = document.querySelector("form[data-weigh-line]");
  if (!form || reading?.state !== "live" || !(reading.g > 0)) return;
  if (!reading.stable && waits !== form.id) {
    waits = form.id; // it is taken when it stands still, or as it is with a second press
    return;
  }
  waits = "";
  form.requestSubmit();
}

// The pot: net = gross − tare, said as it is typed or weighed, beside what is expected.
function net() {
  const said = document.querySelector("[data-net]");
  if (!said) return;
  const form = said.closest("form"),
    number = (name) => Number((form.elements[name]?.value || "0").replace(",", ".").replace(/[^0-9.]/g, ""));
  const grams = number("gross_g") - number("tare_g") - number("still_in_g");
  const expected = Number(said.dataset.expected);
  if (!number("gross_g") || !(grams > 0)) return;
  const off = Math.round((grams / expected - 1) * 100);
  const told = {
    grams: whole(grams),
    expected: whole(expected),
    error: whole(Number(said.dataset.error)),
    off: `${off > 0 ? "+" : ""}${off}`.replace("-", "−"),
  };
  put(said, inWords("{grams} g of food; {expected} g ± {error} were expected ({off} %).", told));
}

// A tare that was typed for a pot of the kitchen can be kept.
function offerTare(form) {
  const pot = form.querySelector('[name="vessel"]:checked'),
    offer = form.querySelector("[data-keep-tare]");
  if (!offer) return;
  const empty = form.elements.tare_g.value.trim(),
    isNew = Boolean(pot) && empty !== "" && empty !== "0" && empty !== pot.dataset.tare;
  if (isNew === !offer.hidden) return;
  offer.hidden = !isNew;
  offer.querySelector("input").checked = isNew;
}

addEventListener("pointerdown", () => {
  if (!document.querySelector("[data-scale]")) return;
  sound ??= new AudioContext();
  sound.resume();
});
document.addEventListener("input", (event) => {
  const field = event.target;
  if (field.matches?.('form[data-accept] [name="net_g"]')) {
    typed = true;
    field.form.elements.scale_tare.value = "";
  }
  if (field.matches?.("[data-from-scale], form[data-weigh-line] [name='net']")) field.dataset.typed = "1";
  if (field.matches?.("form[data-weigh-line] [name='net']")) field.form.elements.scale_tare.value = "";
  if (field.closest?.(".potform")) {
    if (field.name === "vessel" && field.dataset.tare) field.form.elements.tare_g.value = field.dataset.tare;
    offerTare(field.form);
    net();
  }
});
document.addEventListener("submit", (event) => {
  // the next ingredient goes into the same bowl
  if (event.target.matches?.("form[data-weigh-line]") && reading?.state === "live" && !event.target.elements.net.dataset.typed)
    tell("tare");
  if (!event.target.matches?.("form[data-accept]") || event.target.id === sent) return;
  if (reading?.state === "live" && reading.g > nothingOn() && !typed) lift = reading.tare;
  begun = "";
});
document.addEventListener("htmx:after:swap", () => {
  typed = false;
  drawn ||= requestAnimationFrame(draw);
});
document.addEventListener("click", (event) => {
  const says = event.target.closest?.("[data-pan-says]");
  if (says) {
    const grams = says.form.elements.grams.value.trim().replace(",", ".") || "0";
    const words = { put: `put ${grams}`, load: `load ${grams}`, pour: `pour ${grams} 80`, drop: "drop 5" };
    tell(words[says.dataset.panSays] ?? says.dataset.panSays);
  }
  const key = event.target.closest?.("[data-bench-key]")?.dataset.benchKey;
  if (key === " ") acceptAsItIs();
  if (key === "t") tell("tare");
  if (event.target.closest?.("[data-take-line]")) takeLine();
});
document.addEventListener("change", (event) => {
  if (event.target.matches?.("[data-pan-mode]")) tell(`mode ${event.target.value}`);
});

function acceptAsItIs() {
  const form = bench()?.querySelector("form[data-accept]");
  if (form && sent !== form.id) accept(form);
}

document.addEventListener(
  "keydown",
  (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (document.querySelector("form[data-weigh-line]") && (event.key === " " || event.key === "t")) {
      const isTyped = event.target.dataset?.typed || (event.target.matches?.("input, textarea, select") && event.target.name !== "net");
      if (isTyped || event.target.closest?.("button, a, summary")) return;
      event.preventDefault();
      if (event.key === " ") takeLine();
      else tell("tare");
      return;
    }
    if (!bench()) return;
    const inField = event.target.matches?.("input, select, textarea");
    if (inField && event.key !== "ArrowRight" && event.key !== "ArrowLeft") return;
    if (inField || (event.key === " " && event.target.closest?.("button, a, summary"))) return;
    const button = document.querySelector(`[data-bench-key="${CSS.escape(event.key)}"]`);
    if (!button) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === " ") acceptAsItIs();
    else if (event.key === "t") tell("tare");
    else button.click();
  },
  true,
);
listen();
setInterval(listen, 500);
