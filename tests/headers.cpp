// Nothing of its own: the headers that tests have in common are compiled with it.
