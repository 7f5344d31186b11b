// Calls back with each number of the preview's state that isn't the one before it. While nobody sees the page it doesn't listen:
// a browser has few connections for each site. What has changed meanwhile comes with the first number after that.
class Changes {
  constructor(number, changed) {
    this.number = number;
    this.changed = changed;
    this.listen();
    document.addEventListener("visibilitychange", () => (document.hidden ? this.events.close() : this.listen()));
  }

  listen() {
    this.events?.close();
    this.events = new EventSource("/-/changes");
    this.events.addEventListener("number", ({ data }) => {
      const before = this.number;
      this.number = data;
      if (before !== data) this.changed();
    });
  }
}
