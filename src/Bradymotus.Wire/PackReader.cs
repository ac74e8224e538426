using System.Buffers.Binary;
using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Scene;

namespace Bradymotus.Wire;

/// <summary>
/// Reads MessagePack (the specification of msgpack.org, 2013): what JSON can say, and binary numbers. A reader of tokens and no more, since
/// the browser's interpreter pays for every method that it meets for the first time.
/// </summary>
/// <param name="data">One value.</param>
/// <param name="what">What it is, for messages.</param>
public ref struct PackReader(ReadOnlySpan<byte> data, string what)
{
    private const int Deepest = 64;
    private readonly ReadOnlySpan<byte> _data = data;
    private int _at;
    private int _depth;
    private ReadOnlySpan<byte> _addressText;
    private ChannelAddress _address;

    /// <summary>Goes into a map; its entries follow, each a <see cref="Name"/> and a value.</summary>
    /// <returns>How many.</returns>
    /// <exception cref="Refusal">There is none, or it says it has more than there is.</exception>
    public int Map() => Enter(0x80, 0xde, 2, "an object");

    /// <summary>Goes into a list.</summary>
    /// <returns>How many values follow.</returns>
    /// <exception cref="Refusal">As <see cref="Map"/>.</exception>
    public int List() => Enter(0x90, 0xdc, 1, "a list");

    /// <summary>Goes out of a map or a list.</summary>
    public void End() => _depth--;

    /// <summary>A finite number.</summary>
    public double Number()
    {
        var tag = Tag();
        var number = tag switch
        {
            <= 0x7f => tag,
            >= 0xe0 => (sbyte)tag,
            0xca => BinaryPrimitives.ReadSingleBigEndian(Take(4)),
            0xcb => BinaryPrimitives.ReadDoubleBigEndian(Take(8)),
            0xcc => Take(1)[0],
            0xcd => BinaryPrimitives.ReadUInt16BigEndian(Take(2)),
            0xce => BinaryPrimitives.ReadUInt32BigEndian(Take(4)),
            0xcf => BinaryPrimitives.ReadUInt64BigEndian(Take(8)),
            0xd0 => (sbyte)Take(1)[0],
            0xd1 => BinaryPrimitives.ReadInt16BigEndian(Take(2)),
            0xd2 => BinaryPrimitives.ReadInt32BigEndian(Take(4)),
            0xd3 => BinaryPrimitives.ReadInt64BigEndian(Take(8)),
            _ => throw Expected("a number"),
        };
        return double.IsFinite(number) ? number : throw new Refusal($"The {what} has a number that is not finite: give it a value.");
    }

    /// <summary>A whole number.</summary>
    public int Whole()
    {
        var number = Number();
        return number == (int)number ? (int)number : throw Expected("a whole number");
    }

    public bool Truth() => Tag() switch
    {
        0xc2 => false,
        0xc3 => true,
        _ => throw Expected("true or false"),
    };

    public string Text() => Encoding.UTF8.GetString(Name());

    /// <summary>The address of a channel. In long lists of keys most are of the channel before, and that is not made anew.</summary>
    /// <exception cref="Refusal">It is none.</exception>
    public ChannelAddress Address()
    {
        var text = Name();
        if (_address.Owner is null || !text.SequenceEqual(_addressText))
        {
            _address = ChannelAddress.Parse(Encoding.UTF8.GetString(text));
            _addressText = text;
        }
        return _address;
    }

    /// <summary>A text as it stands, such as the name of an entry.</summary>
    public ReadOnlySpan<byte> Name()
    {
        var tag = Tag();
        return Take(tag switch
        {
            >= 0xa0 and <= 0xbf => tag & 0x1f,
            0xd9 => Length(1),
            0xda => Length(2),
            0xdb => Length(4),
            _ => throw Expected("a text"),
        });
    }

    /// <summary>Bytes as they stand.</summary>
    public ReadOnlySpan<byte> Bytes()
    {
        var tag = Tag();
        return Take(tag switch
        {
            0xc4 => Length(1),
            0xc5 => Length(2),
            0xc6 => Length(4),
            _ => throw Expected("bytes"),
        });
    }

    /// <summary>Goes over a null, if there is one.</summary>
    public bool Null()
    {
        if (_at >= _data.Length || _data[_at] != 0xc0)
        {
            return false;
        }
        _at++;
        return true;
    }

    /// <summary>Whether a text comes next.</summary>
    public readonly bool IsText => _at < _data.Length && _data[_at] is >= 0xa0 and <= 0xbf or 0xd9 or 0xda or 0xdb;

    /// <summary>Goes over a value.</summary>
    public void Skip()
    {
        var tag = _at < _data.Length ? _data[_at] : throw CutOff();
        if (tag is >= 0x80 and <= 0x8f or 0xde or 0xdf)
        {
            for (var n = Map(); n > 0; n--)
            {
                Name();
                Skip();
            }
            End();
        }
        else if (tag is >= 0x90 and <= 0x9f or 0xdc or 0xdd)
        {
            for (var n = List(); n > 0; n--)
            {
                Skip();
            }
            End();
        }
        else if (IsText)
        {
            Name();
        }
        else if (tag is 0xc0 or 0xc2 or 0xc3)
        {
            _at++;
        }
        else
        {
            Number();
        }
    }

    /// <summary>What the entry “kind” of the map ahead says; the reader stays where it is.</summary>
    /// <exception cref="Refusal">It has none.</exception>
    public readonly ReadOnlySpan<byte> Kind()
    {
        var ahead = this;
        for (var n = ahead.Map(); n > 0; n--)
        {
            if (ahead.Name().SequenceEqual("kind"u8))
            {
                return ahead.Name();
            }
            ahead.Skip();
        }
        throw Missing("object", "kind");
    }

    public readonly Refusal Missing(string type, string property) => new($"The {what} has {type} without “{property}”: add it.");

    public readonly Refusal Unknown(string type, ReadOnlySpan<byte> kind) => new($"The {what} has {type} “{Encoding.UTF8.GetString(kind)}”, which is not known.");

    private readonly Refusal Expected(string expected) => new($"The {what} cannot be read at byte {_at}: expected {expected}.");

    private readonly Refusal CutOff() => new($"The {what} ends in the middle: it seems to have been cut off.");

    private byte Tag() => Take(1)[0];

    private int Length(int bytes)
    {
        var raw = Take(bytes);
        var length = bytes == 1 ? raw[0] : bytes == 2 ? BinaryPrimitives.ReadUInt16BigEndian(raw) : BinaryPrimitives.ReadUInt32BigEndian(raw);
        return length <= (uint)(_data.Length - _at) ? (int)length : throw CutOff();
    }

    private ReadOnlySpan<byte> Take(int count)
    {
        if (count > _data.Length - _at)
        {
            throw CutOff();
        }
        var taken = _data.Slice(_at, count);
        _at += count;
        return taken;
    }

    /// <param name="few">The tag of one with no entry; up to fifteen are counted in it.</param>
    /// <param name="many">The tag of one whose count takes two bytes; the next has four.</param>
    private int Enter(int few, int many, int bytesEach, string expected)
    {
        var tag = Tag();
        var count = (tag & 0xf0) == few ? tag & 0x0f
            : tag == many ? Length(2)
            : tag == many + 1 ? Length(4)
            : throw Expected(expected);
        if ((long)count * bytesEach > _data.Length - _at)
        {
            throw CutOff();
        }
        return ++_depth <= Deepest ? count : throw new Refusal($"The {what} is nested more than {Deepest} deep.");
    }
}
