window.A = { go() {} };
