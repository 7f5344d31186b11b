Core.run.forEach(function(f){f()});document.body.dataset.tabs=Core.tabs();
