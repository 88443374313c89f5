"""The hash of a name in the Cryptomatte specification 1.2: MurmurHash3 x86 32-bit with seed 0, kept a normal float.

MurmurHash3 is by A. Appleby and in the public domain; this is written from its published description.
"""

import numpy as np

MASK = 0xFFFFFFFF


def _rotate(value: int, bits: int) -> int:
    return ((value << bits) | (value >> (32 - bits))) & MASK


def _scrambled(block: int) -> int:
    return (_rotate((block * 0xCC9E2D51) & MASK, 15) * 0x1B873593) & MASK


def murmur3(data: bytes) -> int:
    """The 32-bit hash as an unsigned number.

    >>> hex(murmur3(b"hello"))
    '0x248bfa47'
    """
    state = 0
    whole = len(data) // 4 * 4
    for at in range(0, whole, 4):
        state ^= _scrambled(int.from_bytes(data[at : at + 4], "little"))
        state = (_rotate(state, 13) * 5 + 0xE6546B64) & MASK
    if tail := data[whole:]:
        state ^= _scrambled(int.from_bytes(tail, "little"))
    state ^= len(data)
    state = ((state ^ (state >> 16)) * 0x85EBCA6B) & MASK
    state = ((state ^ (state >> 13)) * 0xC2B2AE35) & MASK
    return state ^ (state >> 16)


def id_of_name(name: str) -> int:
    """The ID of a name as 32 bits: the hash, with bit 23 flipped where it would be zero, denormal, infinite or NaN."""
    value = murmur3(name.encode("utf-8"))
    exponent = (value >> 23) & 0xFF
    return value ^ (1 << 23) if exponent in (0, 255) else value


def float_of_id(value: int) -> float:
    """The float whose bits are this ID.

    >>> float_of_id(id_of_name("cube"))
    -4084619125194752.0
    """
    return float(np.uint32(value).view(np.float32))
