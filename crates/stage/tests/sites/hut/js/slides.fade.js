(function (S) { S.fade = function (q) { document.querySelector(q).classList.add("faded"); }; })(window.Slides);
