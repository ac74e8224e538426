using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>The channels of one owner, side by side. Immutable once made.</summary>
internal sealed class CompiledOwner
{
    private readonly ImmutableSortedDictionary<string, Channel>? _channels;
    private readonly Shape? _shape;

    /// <param name="id">Of the node or material, or that of the world.</param>
    /// <param name="list">What channels it has.</param>
    /// <param name="channels">Those that somebody has set.</param>
    /// <param name="earlier">An earlier state of it, whose evaluators are taken over where the curve is the same.</param>
    /// <param name="node">What it is of where it is a node.</param>
    internal CompiledOwner(string id, ChannelList list, ImmutableSortedDictionary<string, Channel>? channels, CompiledOwner? earlier, Node? node)
    {
        (Id, List, _channels, _shape) = (id, list, channels, (node as MeshNode)?.Shape);
        Statics = new double[list.Count];
        Curves = new Curve?[list.Count];
        var animated = 0;
        for (var c = 0; c < Statics.Length; c++)
        {
            Channel? set = null;
            if (channels is not null && !channels.TryGetValue(list[c].Path, out set) && list[c].Like is { } like)
            {
                channels.TryGetValue(like, out set);
            }
            Statics[c] = set?.Value ?? ChannelCatalog.Standard(node, list, c);
            Curves[c] = set?.Curve;
            animated += set?.Curve is null ? 0 : 1;
        }
        Animated = new int[animated];
        Evaluators = new CurveEvaluator[animated];
        for (int c = 0, n = 0; n < animated; c++)
        {
            if (Curves[c] is { } curve)
            {
                Animated[n] = c;
                Evaluators[n] = earlier?.EvaluatorOf(curve) ?? curve.Compile();
                IsMoved |= c < list.PlaceChannels;
                IsShaped |= c >= list.PlaceChannels && c < list.PlaceChannels + list.ShapeChannels;
                n++;
            }
        }
        Slerp = list.HasQuaternion ? SphericalEvaluator.Of(Curves.AsSpan(FirstOfRotation, 4), this) : null;
    }

    /// <summary>The place of the first channel of a node's rotation.</summary>
    internal const int FirstOfRotation = 3;

    /// <summary>Evaluates the four channels of a quaternion together where they have keys together; null where there is nothing of this.</summary>
    internal SphericalEvaluator? Slerp { get; }

    internal string Id { get; }

    internal ChannelList List { get; }

    internal double[] Statics { get; }

    internal Curve?[] Curves { get; }

    /// <summary>The places of its channels that have a curve, rising.</summary>
    internal int[] Animated { get; }

    /// <summary>One for each of <see cref="Animated"/>.</summary>
    internal CurveEvaluator[] Evaluators { get; }

    /// <summary>One of the channels that say where a node stands, and whether it is seen, has a curve.</summary>
    internal bool IsMoved { get; }

    /// <summary>One of the numbers of its shape has a curve.</summary>
    internal bool IsShaped { get; }

    internal bool Fits(ChannelList list, ImmutableSortedDictionary<string, Channel>? channels, Node? node) =>
        ReferenceEquals(List, list) && ReferenceEquals(_channels, channels) && ReferenceEquals(_shape, (node as MeshNode)?.Shape);

    /// <summary>The values on a frame of its first channels.</summary>
    internal void Evaluate(double frame, Span<double> values)
    {
        Statics.AsSpan(0, values.Length).CopyTo(values);
        for (var n = 0; n < Animated.Length && Animated[n] < values.Length; n++)
        {
            values[Animated[n]] = Evaluators[n].Evaluate(frame);
        }
        if (Slerp is not null && values.Length > FirstOfRotation + 3 && Slerp.TryEvaluate(frame, out var q))
        {
            (values[3], values[4], values[5], values[6]) = q;
        }
    }

    /// <summary>One channel on evenly spaced frames.</summary>
    internal void Sample(int channel, double first, double step, Span<double> values)
    {
        if (Slerp is not null && channel - FirstOfRotation is >= 0 and < 4)
        {
            Span<double> all = new double[Statics.Length];
            for (var i = 0; i < values.Length; i++)
            {
                Evaluate(first + i * step, all);
                values[i] = all[channel];
            }
        }
        else if (Array.BinarySearch(Animated, channel) is >= 0 and var n)
        {
            Evaluators[n].Sample(first, step, values);
        }
        else
        {
            values.Fill(Statics[channel]);
        }
    }

    internal static double Component(in Quaternion q, int i) => i switch { 0 => q.X, 1 => q.Y, 2 => q.Z, _ => q.W };

    internal CurveEvaluator? EvaluatorOf(Curve curve)
    {
        for (var n = 0; n < Animated.Length; n++)
        {
            if (ReferenceEquals(Curves[Animated[n]], curve))
            {
                return Evaluators[n];
            }
        }
        return null;
    }
}
