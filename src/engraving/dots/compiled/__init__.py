"""Error diffusion sixteen rows at once, by LLVM's vector instructions; see README.md."""
