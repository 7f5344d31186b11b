window.App = { show: function (q) { document.querySelector(q).title = "shown"; } };
