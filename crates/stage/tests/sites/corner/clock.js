function startClock(){ document.getElementById("clock").innerHTML = "ok"; }
