"""From film to displayable picture: desk mix, denoise, grade, view."""
