"""From the newest film to what is on the screen: developed, denoised, and as small pictures."""
