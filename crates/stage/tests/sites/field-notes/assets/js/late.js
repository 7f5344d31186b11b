document.documentElement.dataset.late="1";
