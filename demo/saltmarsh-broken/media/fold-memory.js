/** Folds stay as a visitor left them. */
PageLoaded(() => {
  for (const [at, fold] of document.querySelectorAll("details.fold").entries()) {
    const key = `fold ${location.pathname} ${at}`;
    fold.open = sessionStorage.getItem(key) === "open";
    fold.addEventListener("toggle", () => sessionStorage.setItem(key, fold.open ? "open" : "closed"));
  }
});
