Core.run.push(function(){document.title;});
