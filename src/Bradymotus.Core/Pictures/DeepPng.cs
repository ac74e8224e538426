using System.Buffers.Binary;
using System.IO.Compression;

namespace Bradymotus.Core.Pictures;

/// <summary>
/// Reads PNG pictures of 16 bits a part whole, as maps of height have them: what reads pictures for the screen cuts greys to 8 bits.
/// W3C, "Portable Network Graphics (PNG) Specification", second edition, 2003, sections 7, 9 and 11.
/// </summary>
public static class DeepPng
{
    private const int HeadLength = 33;

    /// <summary>Whether it is a PNG of 16 bits a part whose rows follow one another; one that is interlaced is not read here.</summary>
    public static bool IsOne(ReadOnlySpan<byte> bytes) => bytes.Length > HeadLength
        && bytes.StartsWith((ReadOnlySpan<byte>)[0x89, (byte)'P', (byte)'N', (byte)'G', 13, 10, 26, 10])
        && bytes[12..16].SequenceEqual("IHDR"u8) && bytes[24] == 16 && bytes[25] is 0 or 2 or 4 or 6 && bytes[28] == 0;

    /// <summary>Red, green, blue and opacity from 0 to 65535, row by row from the top, as they are in the file. Rows that are not there are 0.</summary>
    /// <param name="bytes">One that <see cref="IsOne"/>, of a size that can be taken.</param>
    /// <exception cref="InvalidDataException">It is damaged.</exception>
    public static ushort[] Read(ReadOnlySpan<byte> bytes)
    {
        var (width, height) = (BinaryPrimitives.ReadInt32BigEndian(bytes[16..]), BinaryPrimitives.ReadInt32BigEndian(bytes[20..]));
        var (isGrey, hasOpacity) = (bytes[25] is 0 or 4, bytes[25] is 4 or 6);
        var parts = (isGrey ? 1 : 3) + (hasOpacity ? 1 : 0);
        using var packed = new MemoryStream();
        for (var at = 8; at + 12 <= bytes.Length;)
        {
            var length = (int)Math.Min(BinaryPrimitives.ReadUInt32BigEndian(bytes[at..]), (uint)(bytes.Length - at - 12));
            if (bytes.Slice(at + 4, 4).SequenceEqual("IDAT"u8))
            {
                packed.Write(bytes.Slice(at + 8, length));
            }
            at += length + 12;
        }
        packed.Position = 0;
        using var rows = new ZLibStream(packed, CompressionMode.Decompress);
        var made = new ushort[4 * width * height];
        var (row, above) = (new byte[2 * parts * width], new byte[2 * parts * width]);
        Span<byte> filter = stackalloc byte[1];
        for (var y = 0; y < height && rows.ReadAtLeast(filter, 1, throwOnEndOfStream: false) == 1 && rows.ReadAtLeast(row, row.Length, throwOnEndOfStream: false) == row.Length; y++)
        {
            Unfilter(filter[0], row, above, 2 * parts);
            for (var x = 0; x < width; x++)
            {
                ushort Part(int i) => BinaryPrimitives.ReadUInt16BigEndian(row.AsSpan(2 * (parts * x + i)));
                var to = 4 * (y * width + x);
                (made[to], made[to + 1], made[to + 2]) = (Part(0), Part(isGrey ? 0 : 1), Part(isGrey ? 0 : 2));
                made[to + 3] = hasOpacity ? Part(parts - 1) : ushort.MaxValue;
            }
            (row, above) = (above, row);
        }
        return made;
    }

    /// <summary>Section 9: each byte is told by its difference from what its neighbours say.</summary>
    /// <param name="step">The bytes of a pixel.</param>
    private static void Unfilter(byte filter, byte[] row, byte[] above, int step)
    {
        for (var i = 0; i < row.Length; i++)
        {
            int left = i < step ? 0 : row[i - step], up = above[i], corner = i < step ? 0 : above[i - step];
            row[i] += filter switch
            {
                0 => (byte)0,
                1 => (byte)left,
                2 => (byte)up,
                3 => (byte)((left + up) / 2),
                4 => Nearest(left, up, corner),
                _ => throw new InvalidDataException(),
            };
        }
    }

    private static byte Nearest(int left, int up, int corner)
    {
        var (a, b, c) = (Math.Abs(up - corner), Math.Abs(left - corner), Math.Abs(left + up - 2 * corner));
        return (byte)(a <= b && a <= c ? left : b <= c ? up : corner);
    }
}
