using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Wire;

/// <summary>
/// What goes between the page and the engine, as MessagePack with the shape of its JSON. The readers and writers of records are made from the
/// types by Bradymotus.Wire.Generator at every build; here are those that JSON too writes by hand.
/// </summary>
public static partial class Packed
{
    private static Segment ReadSegment(ref PackReader r)
    {
        if (!r.IsText)
        {
            return ReadEaseSegment(ref r);
        }
        var name = r.Name();
        return name.SequenceEqual("bezier"u8) ? Segment.Bezier
            : name.SequenceEqual("linear"u8) ? Segment.Linear
            : name.SequenceEqual("hold"u8) ? Segment.Hold
            : throw r.Unknown("a segment", name);
    }

    private static void Write(PackWriter w, Segment value)
    {
        switch (value)
        {
            case EaseSegment ease:
                Write(w, ease);
                break;
            case LinearSegment:
                w.Text("linear"u8);
                break;
            case HoldSegment:
                w.Text("hold"u8);
                break;
            default:
                w.Text("bezier"u8);
                break;
        }
    }

    private static ChannelAddress ReadChannelAddress(ref PackReader r) => r.Address();

    private static void Write(PackWriter w, ChannelAddress value) => w.Text(value.ToString());

    private static Affine ReadAffine(ref PackReader r)
    {
        Span<double> m = stackalloc double[16];
        var count = r.List();
        for (var i = 0; i < count && i < 16; i++)
        {
            m[i] = r.Number();
        }
        r.End();
        return count == 16 && m[3] == 0 && m[7] == 0 && m[11] == 0 && m[15] == 1
            ? Affine.From(m)
            : throw new Refusal("An offset is sixteen numbers, column by column, with 0, 0, 0, 1 as the last row.");
    }

    private static void Write(PackWriter w, Affine value)
    {
        Span<double> m = stackalloc double[16];
        value.CopyTo(m);
        w.List(16);
        foreach (var number in m)
        {
            w.Number(number);
        }
    }
}
