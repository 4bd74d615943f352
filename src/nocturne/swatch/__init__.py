"""Swatches: small rendered pictures of a material on a stand of a chosen real size."""
