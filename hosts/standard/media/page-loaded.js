/** Runs a function once the page is there. */
function PageLoaded(act) {
  if (document.readyState === "loading") {
    document.addEventListener("DOMContentLoaded", act, { once: true });
  } else {
    act();
  }
}
