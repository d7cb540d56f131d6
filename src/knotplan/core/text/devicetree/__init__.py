"""What a Linux system has to be told of a plan: an overlay onto its board's Devicetree, by the standard
bindings of the kernel (Documentation/devicetree/bindings)."""
