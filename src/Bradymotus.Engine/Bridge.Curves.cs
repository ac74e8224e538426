using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>Curves and easings, as they are drawn and changed.</summary>
internal static partial class Bridge
{
    /// <summary>Holds a long list of keys, so that a hand that drags them need not send it at every step.</summary>
    /// <param name="keys">An edit with the keys.</param>
    /// <returns>Its number, or −1 where it cannot be read.</returns>
    [JSExport]
    internal static int HoldKeys(byte[] keys) => Safely(() => ReadEdit(keys) is TransformKeys edit ? Open.HoldKeys(edit.Keys) : -1, -1);

    /// <summary>Holds none of them any longer.</summary>
    [JSExport]
    internal static void DropKeys() => Safely(() =>
    {
        Open.DropKeys();
        return true;
    }, false);

    /// <summary>As <see cref="Try(byte[])"/>, with lists of keys that are held.</summary>
    /// <param name="held">For each edit that moves keys, in order, the number of its list; −1 where it brings its own.</param>
    [JSExport]
    internal static byte[] TryHeld(byte[] edit, int[] held) => Answer(() =>
    {
        Open.Try(Open.WithHeld(ReadEdit(edit), new Queue<int>(held)));
        return new Outcome();
    });

    /// <summary>As <see cref="Commit"/>, with lists of keys that are held. The entry comes back with the edit as it was sent, without them.</summary>
    /// <param name="held">As of <see cref="TryHeld"/>.</param>
    [JSExport]
    internal static byte[] CommitHeld(byte[] edit, int[] held, string id) => Answer(() =>
    {
        var sent = ReadEdit(edit);
        var made = Made(new EditEntry(Open.WithHeld(sent, new Queue<int>(held))) { Id = id });
        return made.Entry is EditEntry entry ? made with { Entry = entry with { Edit = sent } } : made;
    });

    /// <summary>Gives segments the shape of an easing that is written as style sheets write it.</summary>
    /// <param name="keys">A remove edit that names the keys that the segments leave.</param>
    [JSExport]
    internal static byte[] ShapeSegments(byte[] keys, string easing, string id) => Answer(() =>
        Made(new EditEntry(new ShapeSegments(((RemoveKeys)ReadEdit(keys)).Keys, Core.Curves.CssEasing.Parse(easing))) { Id = id }));

    /// <summary>The segment that leaves a key, as style sheets write easings; nothing where there is none.</summary>
    [JSExport]
    internal static string EasingOf(string channel, double frame) => Safely(() =>
        Open.Shown.Channel(ChannelAddress.Parse(channel)).Curve is { } curve ? Core.Curves.CssEasing.Format(curve, curve.IndexOf(frame)) : "", "");

    /// <summary>An easing that is written as style sheets write it, drawn small: evenly spaced values; none where it is no easing.</summary>
    [JSExport]
    internal static double[] EasingPicture(string easing) => Safely(() =>
    {
        var values = new double[41];
        Core.Curves.CssEasing.Parse(easing).Compile().Sample(0, 1.0 / (values.Length - 1), values);
        return values;
    }, []);

    private static double[] _curveNumbers = [];

    /// <summary>The numbers of the keys of the curve that was asked for last; see <see cref="CurveView.NumbersOfKey"/>.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> CurveNumbers() => System.Runtime.InteropServices.MemoryMarshal.AsBytes(_curveNumbers.AsSpan());

    /// <summary>A <see cref="CurveView"/>, or nothing.</summary>
    [JSExport]
    internal static byte[] Curve(string channel) => Safely<byte[]>(() =>
        Open.CurveOf(ChannelAddress.Parse(channel), out _curveNumbers) is { } view ? Packed.Write(view) : [], []);

    /// <summary>Values of a channel at evenly spaced frames.</summary>
    [JSExport]
    internal static double[] Sample(string channel, double first, double step, int count) =>
        Safely(() => Open.Sample(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000)), []);

    /// <summary>Values of a channel with all layers at evenly spaced frames.</summary>
    [JSExport]
    internal static double[] SampleSum(string channel, double first, double step, int count) =>
        Safely(() => Open.SampleSum(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000)), []);

    /// <summary>Says which layer takes what is posed from now on.</summary>
    /// <param name="layer">Its id; nothing is below all layers.</param>
    [JSExport]
    internal static void SetLayer(string layer) => Safely(() => Open.Layer = Open.Shown.FindLayer(layer)?.Id, null);

    /// <summary>How fast a channel changes at evenly spaced frames, in value per frame; or its acceleration.</summary>
    [JSExport]
    internal static double[] Slopes(string channel, double first, double step, int count, bool acceleration) =>
        Safely(() => Open.Slopes(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000), acceleration), []);

    /// <summary>A segment from 0 to 1, drawn small: evenly spaced values.</summary>
    [JSExport]
    internal static double[] EasePicture(byte[] segment) => Safely(() =>
    {
        var values = new double[41];
        new Core.Curves.Curve([new(0, 0, Packed.ReadSegment(segment, "segment")), new(1, 1)]).Compile().Sample(0, 1.0 / (values.Length - 1), values);
        return values;
    }, []);

    /// <summary>Whole keys, for the clipboard; nothing where they are not there.</summary>
    /// <param name="keys">A remove edit that names them.</param>
    [JSExport]
    internal static byte[] CopyKeys(byte[] keys) => Safely<byte[]>(() =>
        Packed.Write(new PutKeys(Open.Copy(((RemoveKeys)ReadEdit(keys)).Keys)) as Edit), []);

    /// <summary>The time that a range gets of its own, drawn small: the frame that is shown at evenly spaced frames.</summary>
    /// <param name="edit">A <see cref="Retime"/>.</param>
    [JSExport]
    internal static double[] RetimePicture(byte[] edit) => Safely(() =>
    {
        var map = ((Retime)ReadEdit(edit)).Map;
        var values = new double[65];
        map.Compile().Sample(map.Keys[0].Frame, map.Period / (values.Length - 1), values);
        values[^1] = map.Keys[^1].Value;
        return values;
    }, []);
}
