PageLoaded(() => A.go());
