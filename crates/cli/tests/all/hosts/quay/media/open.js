const Disclosure = { start() {} }; PageLoaded(() => Disclosure.start());
