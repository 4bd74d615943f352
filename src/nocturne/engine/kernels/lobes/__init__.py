"""One file for each lobe of a surface; `surface` composes them and shares the energy."""
