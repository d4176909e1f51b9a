"""One registry of everything that can be done; menus, finder, keys and footswitch are drawn from it."""
