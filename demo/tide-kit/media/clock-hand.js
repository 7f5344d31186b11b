/** Turns the hands of dials: noon is on top, midnight below. */
const ClockHand = {
  turn(root, now) {
    const minutes = now.getHours() * 60 + now.getMinutes();
    for (const hand of root.querySelectorAll("[data-clock-hand]")) {
      hand.setAttribute("transform", `rotate(${(minutes / 1440) * 360 + 180} 60 60)`);
      hand.style.visibility = "visible";
    }
  },
};

PageLoaded(() => {
  ClockHand.turn(document, new Date());
  setInterval(() => ClockHand.turn(document, new Date()), 60000);
});
