// A passkey, made on the account page or asked for at the door. Shown only where the browser can: over https, or on this very machine.
const asBytes = (text) => Uint8Array.from(atob(text.replace(/-/g, "+").replace(/_/g, "/")), (c) => c.charCodeAt(0));
const asText = (bytes) =>
  btoa(String.fromCharCode(...new Uint8Array(bytes)))
    .replace(/\+/g, "-")
    .replace(/\//g, "_")
    .replace(/=+$/, "");

// What the server asks, as the browser wants it: names and figures as they are, secrets in bytes.
function asked(options) {
  const known = (list) => (list ?? []).map((one) => ({ ...one, id: asBytes(one.id) }));
  const whole = { ...options, challenge: asBytes(options.challenge) };
  if (options.user) whole.user = { ...options.user, id: asBytes(options.user.id) };
  if (options.excludeCredentials) whole.excludeCredentials = known(options.excludeCredentials);
  if (options.allowCredentials) whole.allowCredentials = known(options.allowCredentials);
  return whole;
}

function answered(made) {
  const parts = ["clientDataJSON", "attestationObject", "authenticatorData", "signature", "userHandle"];
  const told = parts.filter((name) => made.response[name]).map((name) => [name, asText(made.response[name])]);
  return { id: made.id, rawId: asText(made.rawId), type: made.type, response: Object.fromEntries(told) };
}

const able = () => window.isSecureContext && "credentials" in navigator && "PublicKeyCredential" in window;

function show() {
  if (!able()) return;
  for (const form of document.querySelectorAll("[data-passkey][hidden]")) form.hidden = false;
  for (const words of document.querySelectorAll("[data-no-passkey]")) words.hidden = true;
}

async function go(form) {
  const told = form.querySelector("[role=alert]");
  const say = (words) => {
    told.textContent = words;
    told.hidden = !words;
  };
  say("");
  try {
    const answer = await fetch(form.dataset.passkey, { method: "POST", body: new URLSearchParams(new FormData(form)) });
    const got = await answer.json();
    if (!answer.ok) return say(got.error);
    const publicKey = asked(got);
    const made = await (got.rp ? navigator.credentials.create({ publicKey }) : navigator.credentials.get({ publicKey }));
    form.elements.answer.value = JSON.stringify(answered(made));
    form.dataset.ready = "1";
    form.requestSubmit();
  } catch (error) {
    say(error.name === "InvalidStateError" ? inWords("This device has a passkey of yours already.") : form.dataset.says);
  }
}

document.addEventListener(
  "submit",
  (event) => {
    const form = event.target.closest("[data-passkey]");
    if (!form || form.dataset.ready) return;
    event.preventDefault();
    event.stopPropagation();
    go(form);
  },
  true,
);
document.addEventListener("htmx:after:swap", show);
show();
