using System.Buffers.Binary;
using System.IO.Compression;

namespace Bradymotus.Render.Tests;

/// <summary>Writes PNG files of 16 bits, as painting programs make maps of height.</summary>
internal static class Pngs
{
    /// <param name="colourType">PNG, section 11.2.2: 0 grey, 2 colour, 4 grey and 6 colour with opacity.</param>
    /// <param name="part">A part of a pixel: x, y and which.</param>
    /// <param name="filter">The filter of a row, 0 to 4.</param>
    internal static byte[] Deep(int width, int height, int colourType, Func<int, int, int, ushort> part, Func<int, int> filter)
    {
        var parts = colourType switch { 0 => 1, 2 => 3, 4 => 2, _ => 4 };
        var (rows, above) = (new MemoryStream(), new byte[2 * parts * width]);
        for (var y = 0; y < height; y++)
        {
            var row = new byte[above.Length];
            for (var i = 0; i < parts * width; i++)
            {
                BinaryPrimitives.WriteUInt16BigEndian(row.AsSpan(2 * i), part(i / parts, y, i % parts));
            }
            rows.WriteByte((byte)filter(y));
            for (var i = 0; i < row.Length; i++)
            {
                int left = i < 2 * parts ? 0 : row[i - 2 * parts], up = above[i], corner = i < 2 * parts ? 0 : above[i - 2 * parts];
                // Of the three the one nearest to left + up − corner; of equals the first.
                var near = new[] { left, up, corner }.MinBy(n => Math.Abs(left + up - corner - n));
                rows.WriteByte((byte)(row[i] - (filter(y) switch { 0 => 0, 1 => left, 2 => up, 3 => (left + up) / 2, _ => near })));
            }
            above = row;
        }
        var packed = new MemoryStream();
        using (var to = new ZLibStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        {
            rows.Position = 0;
            rows.CopyTo(to);
        }
        var head = new byte[13];
        BinaryPrimitives.WriteInt32BigEndian(head, width);
        BinaryPrimitives.WriteInt32BigEndian(head.AsSpan(4), height);
        (head[8], head[9]) = (16, (byte)colourType);
        var half = (int)packed.Length / 2;
        return [0x89, .. "PNG"u8, 13, 10, 26, 10, .. Chunk("IHDR"u8, head), .. Chunk("IDAT"u8, packed.ToArray()[..half]), .. Chunk("IDAT"u8, packed.ToArray()[half..]), .. Chunk("IEND"u8, [])];
    }

    private static byte[] Chunk(ReadOnlySpan<byte> kind, byte[] data)
    {
        var chunk = new byte[12 + data.Length];
        BinaryPrimitives.WriteInt32BigEndian(chunk, data.Length);
        kind.CopyTo(chunk.AsSpan(4));
        data.CopyTo(chunk, 8);
        BinaryPrimitives.WriteUInt32BigEndian(chunk.AsSpan(8 + data.Length), Crc(chunk.AsSpan(4, 4 + data.Length)));
        return chunk;
    }

    /// <summary>The check of a chunk (PNG specification, annex D).</summary>
    internal static uint Crc(ReadOnlySpan<byte> bytes)
    {
        var crc = uint.MaxValue;
        foreach (var b in bytes)
        {
            crc ^= b;
            for (var k = 0; k < 8; k++)
            {
                crc = (crc & 1) != 0 ? 0xEDB88320u ^ (crc >> 1) : crc >> 1;
            }
        }
        return ~crc;
    }
}
