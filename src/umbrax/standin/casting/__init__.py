"""The ray caster: sixteen rays at once, all of one pixel.

A pixel's rays lie in one flat array, a row of `SAMPLES` numbers for each quantity, so that the compiler works on all
of them together: `packets` makes and sorts them out, `shapes` meets them with primitives, `shading` lights what they
hit, `cast` goes over the pixels of a frame.
"""
