using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A curve: that of a channel itself, or one that a layer lays over it.</summary>
/// <param name="IsActive">It has a say in what is seen: its layer is active, and none above hides it.</param>
internal sealed record KeyedChannel(ChannelAddress Address, ChannelSpec Spec, Curve Curve, string Owner, bool IsActive);

/// <summary>A channel as it is seen, with all layers. Where none touches it, it does what its own curve says.</summary>
internal sealed class SeenChannel
{
    private readonly CompiledShot _compiled;
    private IReadOnlyList<double>? _frames;
    private double[]? _values;

    /// <param name="parts">The curves that have a say, at least one.</param>
    /// <param name="others">Further curves whose keys change it: those that are turned together with it.</param>
    internal SeenChannel(CompiledShot compiled, IReadOnlyList<KeyedChannel> parts, IEnumerable<KeyedChannel> others, bool isLayered)
    {
        (_compiled, Parts, IsLayered) = (compiled, parts, isLayered);
        Address = parts[0].Address.Base;
        Others = isLayered ? [.. others] : [];
    }

    /// <summary>Below all layers.</summary>
    internal ChannelAddress Address { get; }

    internal ChannelSpec Spec => Parts[0].Spec;

    /// <summary>The curves that have a say in it, the lowest first.</summary>
    internal IReadOnlyList<KeyedChannel> Parts { get; }

    private IReadOnlyList<KeyedChannel> Others { get; }

    /// <summary>A layer has a say in it, or in what is turned together with it.</summary>
    internal bool IsLayered { get; }

    /// <summary>Its curves add up, each with a weight that stays: what is done to all of them alike is done to what is seen.</summary>
    internal bool IsSum => !IsLayered || Parts.All(p => p.Address.Layer is not { } id
        || (_compiled.Shot.Layer(id).Mode == LayerMode.Add && _compiled.Shot.Channel(new(id, Layer.Weight)).ActiveCurve is null));

    /// <summary>The frames with a key of any curve that has a say, rising.</summary>
    internal IReadOnlyList<double> Frames => _frames ??= IsLayered ? [.. Keyed()] : [.. Parts[0].Curve.Keys.Select(k => k.Frame)];

    /// <summary>What is seen on them.</summary>
    internal double[] Values => _values ??= IsLayered ? [.. Frames.Select(At)] : [.. Parts[0].Curve.Keys.Select(k => k.Value)];

    private IEnumerable<double> Keyed()
    {
        var weights = Parts.Concat(Others).Select(p => p.Address.Layer).OfType<string>().Distinct().Select(id => _compiled.Shot.Channel(new(id, Layer.Weight)).ActiveCurve).OfType<Curve>();
        var last = double.NegativeInfinity;
        foreach (var frame in Parts.Concat(Others).Select(p => p.Curve).Concat(weights).SelectMany(c => c.Keys).Select(k => k.Frame).Order())
        {
            if (frame - last >= Curve.LeastGap)
            {
                yield return last = frame;
            }
        }
    }

    /// <summary>What is seen on a frame.</summary>
    internal double At(double frame)
    {
        if (!IsLayered)
        {
            return Parts[0].Curve.Evaluate(frame);
        }
        Span<double> value = [0];
        _compiled.Sample(Address, frame, 1, value);
        return value[0];
    }

    /// <summary>What is seen on evenly spaced frames from the first to the last of these, both with it.</summary>
    internal double[] Between(double first, double last, int count)
    {
        var values = new double[count];
        _compiled.Sample(Address, first, (last - first) / (count - 1), values);
        values[^1] = At(last);
        return values;
    }

    /// <summary>The curves with a key on a frame.</summary>
    internal IEnumerable<KeyedChannel> KeyedOn(double frame) => Parts.Where(p => p.Curve.KeyAt(frame) is not null);

    /// <summary>The addresses of its curves, for people and programs.</summary>
    internal IEnumerable<string> Addresses => Parts.Select(p => p.Address.ToString());
}
