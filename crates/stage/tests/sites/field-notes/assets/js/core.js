(function(){window.Core={run:[]};})();
