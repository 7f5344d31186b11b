(function(C){C.tabs=function(){return 1;};})(Core);
