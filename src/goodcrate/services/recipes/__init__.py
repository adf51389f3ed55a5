"""The recipe library: read, saved, sized, pasted, in and out as files. Imports foods and what that imports."""
