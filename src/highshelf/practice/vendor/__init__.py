"""The makers' download site of the practice host: Chandler's Row Software, over https on loopback."""
