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
    private readonly RotationOrder? _order;
    private readonly CompiledLayer[] _shotLayers;
    // What layers do to it; null for nothing.
    private readonly LayerStack? _layers;
    // One for each of the animated channels; null where only layers have a curve.
    private readonly CurveEvaluator?[] _evaluators;
    // Evaluates the four channels of a quaternion together where they have keys together; null where there is nothing of this.
    private readonly SphericalEvaluator? _slerp;

    /// <param name="id">Of the node or material, or that of the world.</param>
    /// <param name="list">What channels it has.</param>
    /// <param name="channels">Those that somebody has set.</param>
    /// <param name="earlier">An earlier state of it, whose evaluators are taken over where the curve is the same.</param>
    /// <param name="node">What it is of where it is a node.</param>
    /// <param name="layers">The layers of the shot that have a say.</param>
    internal CompiledOwner(
        string id, ChannelList list, ImmutableSortedDictionary<string, Channel>? channels, CompiledOwner? earlier, Node? node, CompiledLayer[] layers)
    {
        (Id, List, _channels, _shape, _order, _shotLayers) = (id, list, channels, (node as MeshNode)?.Shape, node?.RotationOrder, layers);
        CurveEvaluator Compile(Curve curve) => earlier?.EvaluatorOf(curve) ?? curve.Compile();
        _layers = LayerStack.Of(layers, list, channels, _order, Compile);
        Statics = new double[list.Count];
        Curves = new Curve?[list.Count];
        for (var c = 0; c < Statics.Length; c++)
        {
            Channel? set = null;
            if (channels is not null && !channels.TryGetValue(list[c].Path, out set) && list[c].Like is { } like)
            {
                channels.TryGetValue(like, out set);
            }
            Statics[c] = set?.Value ?? ChannelCatalog.Standard(node, list, c);
            Curves[c] = set?.ActiveCurve;
        }
        Animated = [.. Enumerable.Range(0, list.Count).Where(IsAnimated)];
        _evaluators = new CurveEvaluator?[Animated.Length];
        for (var n = 0; n < _evaluators.Length; n++)
        {
            var c = Animated[n];
            _evaluators[n] = Curves[c] is { } curve ? Compile(curve) : null;
            IsMoved |= c < list.PlaceChannels;
            IsShaped |= c >= list.PlaceChannels && c < list.PlaceChannels + list.ShapeChannels;
        }
        _slerp = list.HasQuaternion ? SphericalEvaluator.Of(Curves.AsSpan(FirstOfRotation, 4), c => EvaluatorOf(c)!) : null;
    }

    private bool IsAnimated(int channel) => Curves[channel] is not null || (_layers is not null && (_layers.IsAnimated(channel)
        || (_layers.IsTurn(channel) && Curves.AsSpan(FirstOfRotation, _layers.TurnCount).ContainsAnyExcept(default(Curve)))));

    /// <summary>The place of the first channel of a node's rotation.</summary>
    internal const int FirstOfRotation = 3;

    internal string Id { get; }

    internal ChannelList List { get; }

    internal double[] Statics { get; }

    internal Curve?[] Curves { get; }

    /// <summary>All curves, those of layers among them.</summary>
    internal IEnumerable<Curve> AllCurves => Curves.OfType<Curve>().Concat(_layers?.Curves ?? []);

    /// <summary>It has channels in layers.</summary>
    internal bool IsLayered => _channels?.Keys.Any(p => p.Contains(Layer.Mark, StringComparison.Ordinal)) == true;

    /// <summary>The places of its channels that have a curve, in a layer or below all, rising.</summary>
    internal int[] Animated { get; }

    /// <summary>One of the channels that say where a node stands, and whether it is seen, has a curve.</summary>
    internal bool IsMoved { get; }

    /// <summary>One of the numbers of its shape has a curve.</summary>
    internal bool IsShaped { get; }

    internal bool Fits(ChannelList list, ImmutableSortedDictionary<string, Channel>? channels, Node? node, CompiledLayer[] layers) =>
        ReferenceEquals(List, list) && ReferenceEquals(_channels, channels) && ReferenceEquals(_shape, (node as MeshNode)?.Shape)
        && ((ReferenceEquals(_shotLayers, layers) && _order == node?.RotationOrder) || !IsLayered);

    /// <summary>The values on a frame of its first channels.</summary>
    internal void Evaluate(double frame, Span<double> values)
    {
        Statics.AsSpan(0, values.Length).CopyTo(values);
        for (var n = 0; n < Animated.Length && Animated[n] < values.Length; n++)
        {
            if (_evaluators[n] is { } evaluator)
            {
                values[Animated[n]] = evaluator.Evaluate(frame);
            }
        }
        if (_slerp is not null && values.Length > FirstOfRotation + 3 && _slerp.TryEvaluate(frame, out var q))
        {
            (values[3], values[4], values[5], values[6]) = q;
        }
        _layers?.Apply(frame, values);
    }

    /// <summary>One channel on evenly spaced frames.</summary>
    internal void Sample(int channel, double first, double step, Span<double> values)
    {
        var turn = channel - FirstOfRotation;
        if (turn >= 0 && turn < Math.Max(_slerp is null ? 0 : 4, _layers?.TurnCount ?? 0))
        {
            Span<double> all = stackalloc double[CompiledNode.MostPlaceChannels];
            for (var i = 0; i < values.Length; i++)
            {
                Evaluate(first + i * step, all[..List.PlaceChannels]);
                values[i] = all[channel];
            }
            return;
        }
        if (Array.BinarySearch(Animated, channel) is >= 0 and var n && _evaluators[n] is { } evaluator)
        {
            evaluator.Sample(first, step, values);
        }
        else
        {
            values.Fill(Statics[channel]);
        }
        if (_layers?.IsIn(channel) == true)
        {
            _layers.Sample(channel, first, step, values);
        }
    }

    internal CurveEvaluator? EvaluatorOf(Curve curve)
    {
        for (var n = 0; n < Animated.Length; n++)
        {
            if (ReferenceEquals(Curves[Animated[n]], curve))
            {
                return _evaluators[n];
            }
        }
        return _layers?.EvaluatorOf(curve);
    }
}
