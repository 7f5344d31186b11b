(function (S) { S.ring = function (q) { document.querySelector(q).classList.add("rung"); }; })(window.Bell);
