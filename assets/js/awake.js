// Cook and Portion: the screen stays awake while the page is shown, where the browser allows it.
let lock = null;

async function hold() {
  if (lock || document.visibilityState !== "visible" || !document.querySelector("[data-awake]")) return;
  try {
    lock = (await navigator.wakeLock?.request("screen")) ?? null;
    lock?.addEventListener("release", () => {
      lock = null;
    });
  } catch {
    /* not allowed: the cook taps now and then */
  }
}

document.addEventListener("visibilitychange", hold);
document.addEventListener("htmx:after:swap", hold);
hold();
