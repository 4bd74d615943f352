"""The sheets: properties of what is chosen, one for each stage but the finish."""
