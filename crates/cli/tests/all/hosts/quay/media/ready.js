function PageLoaded(act) { addEventListener("load", act); }
