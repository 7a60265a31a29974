// Nothing: the library stands for its precompiled headers.
