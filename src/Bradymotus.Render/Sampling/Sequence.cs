using System.Numerics;

namespace Bradymotus.Render.Sampling;

/// <summary>
/// The random numbers of one sample of one pixel: a Sobol (0,2)-sequence, scrambled and shuffled by hashes, a new pair for every use.
/// </summary>
/// <remarks>B. Burley, "Practical hash-based Owen scrambling", JCGT 9 (4), 2020. Nothing is shared between pixels, so threads cannot change the picture.</remarks>
internal struct Sequence(int x, int y, uint index, uint seed)
{
    private readonly uint _pixel = Mix(Mix((uint)x ^ 0x9E3779B9u) + (uint)y) ^ seed;
    private uint _dimension;

    /// <summary>The next two numbers in [0, 1), well spread over the samples of a pixel.</summary>
    public Vector2 Next2()
    {
        var seed = Mix(_pixel + 0x68E31DA4u * ++_dimension);
        var shuffled = Scramble(index, seed);
        // Dimension 0 of Sobol's sequence is the reversed index; dimension 1 is its Pascal matrix.
        var a = Scramble(Reverse(shuffled), Mix(seed ^ 0xB5297A4Du));
        var b = Scramble(Second(shuffled), Mix(seed ^ 0x1B56C4E9u));
        return new(Unit(a), Unit(b));
    }

    public float Next1() => Next2().X;

    private static float Unit(uint x) => (x >> 8) * (1f / (1 << 24));

    private static uint Second(uint index)
    {
        uint result = 0;
        for (var v = 0x80000000u; index != 0; index >>= 1, v ^= v >> 1)
        {
            if ((index & 1) != 0)
            {
                result ^= v;
            }
        }
        return result;
    }

    // Owen scrambling works from the top bit down, which on reversed bits is a permutation by Laine and Karras.
    private static uint Scramble(uint x, uint seed)
    {
        x = Reverse(x);
        x += seed;
        x ^= x * 0x6C50B47Cu;
        x ^= x * 0xB82F1E52u;
        x ^= x * 0xC7AFE638u;
        x ^= x * 0x8D22F6E6u;
        return Reverse(x);
    }

    private static uint Reverse(uint x)
    {
        x = ((x >> 1) & 0x55555555u) | ((x & 0x55555555u) << 1);
        x = ((x >> 2) & 0x33333333u) | ((x & 0x33333333u) << 2);
        x = ((x >> 4) & 0x0F0F0F0Fu) | ((x & 0x0F0F0F0Fu) << 4);
        return System.Buffers.Binary.BinaryPrimitives.ReverseEndianness(x);
    }

    private static uint Mix(uint x)
    {
        x ^= x >> 16;
        x *= 0x7FEB352Du;
        x ^= x >> 15;
        x *= 0x846CA68Bu;
        return x ^ (x >> 16);
    }
}
