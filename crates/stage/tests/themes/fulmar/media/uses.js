/* global Fulmar */
PageLoaded(() => { Fulmar.fly(); });
globalThis.Wing = class Wing {};
var tail = 1;
function glide() { return tail; }
if (window.Plume) Plume.preen();
