var Bell = { list: [] };
