"""Ready materials: a library by kind (`library`, read only when it is wanted), and own ones kept for all projects."""
