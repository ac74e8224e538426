using System.Buffers.Binary;
using System.Text;

namespace Bradymotus.Wire;

/// <summary>Writes MessagePack; see <see cref="PackReader"/>.</summary>
public sealed class PackWriter
{
    private byte[] _bytes = new byte[1024];
    private int _at;
    // How many entries the open map has.
    private uint _entries;

    /// <summary>All that has been written.</summary>
    public byte[] ToArray() => _bytes.AsSpan(0, _at).ToArray();

    /// <summary>Begins a map; a name and a value follow for each entry, then <see cref="End"/>.</summary>
    public (int At, uint Around) Map()
    {
        var around = _entries;
        _entries = 0;
        Put(0xdf);
        Room(4);
        _at += 4;
        return (_at - 4, around);
    }

    public void End((int At, uint Around) map)
    {
        BinaryPrimitives.WriteUInt32BigEndian(_bytes.AsSpan(map.At), _entries);
        _entries = map.Around;
    }

    /// <summary>Begins a list of so many values.</summary>
    public void List(int count)
    {
        Put(0xdd);
        BinaryPrimitives.WriteUInt32BigEndian(Room(4), (uint)count);
        _at += 4;
    }

    public void Name(ReadOnlySpan<byte> name)
    {
        _entries++;
        Put((byte)(0xa0 | name.Length));
        name.CopyTo(Room(name.Length));
        _at += name.Length;
    }

    /// <summary>The name of an entry of any length.</summary>
    public void Name(string name)
    {
        _entries++;
        Text(name);
    }

    public void Number(double value)
    {
        Put(0xcb);
        BinaryPrimitives.WriteDoubleBigEndian(Room(8), value);
        _at += 8;
    }

    public void Whole(int value)
    {
        Put(0xd2);
        BinaryPrimitives.WriteInt32BigEndian(Room(4), value);
        _at += 4;
    }

    public void Truth(bool value) => Put(value ? (byte)0xc3 : (byte)0xc2);

    public void Null() => Put(0xc0);

    public void Text(string value)
    {
        Put(0xdb);
        var most = Encoding.UTF8.GetMaxByteCount(value.Length);
        var count = Encoding.UTF8.GetBytes(value, Room(4 + most)[4..]);
        BinaryPrimitives.WriteUInt32BigEndian(_bytes.AsSpan(_at), (uint)count);
        _at += 4 + count;
    }

    /// <summary>A text that is ready, of at most 31 bytes.</summary>
    public void Text(ReadOnlySpan<byte> value)
    {
        Put((byte)(0xa0 | value.Length));
        value.CopyTo(Room(value.Length));
        _at += value.Length;
    }

    /// <summary>Bytes as they stand.</summary>
    public void Bytes(ReadOnlySpan<byte> value)
    {
        Put(0xc6);
        BinaryPrimitives.WriteUInt32BigEndian(Room(4 + value.Length), (uint)value.Length);
        value.CopyTo(_bytes.AsSpan(_at + 4));
        _at += 4 + value.Length;
    }

    private void Put(byte value)
    {
        Room(1)[0] = value;
        _at++;
    }

    private Span<byte> Room(int count)
    {
        if (_bytes.Length - _at < count)
        {
            Array.Resize(ref _bytes, Math.Max(2 * _bytes.Length, _at + count));
        }
        return _bytes.AsSpan(_at);
    }
}
