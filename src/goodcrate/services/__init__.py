"""One module per stage: load, let core compute, save; one transaction per call. Used by web and command line alike."""
