using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>A layer that has a say. Immutable once made.</summary>
internal sealed class CompiledLayer
{
    private readonly double _weight;

    private CompiledLayer(Layer layer, CurveEvaluator? weight)
    {
        (Layer, Weight) = (layer, weight);
        _weight = Held(layer.Channels?.GetValueOrDefault(Layer.Weight)?.Value ?? 1);
    }

    internal Layer Layer { get; }

    internal bool IsOverride => Layer.Mode == LayerMode.Override;

    /// <summary>Null where the weight is always the same.</summary>
    internal CurveEvaluator? Weight { get; }

    internal double WeightAt(double frame) => Weight is null ? _weight : Held(Weight.Evaluate(frame));

    internal static double Held(double weight) => Math.Clamp(weight, 0, 1);

    /// <summary>Those of a shot that have a say, the lowest first.</summary>
    internal static CompiledLayer[] Of(ImmutableArray<Layer> layers, CompiledLayer[] earlier) =>
        [.. Active(layers).Select(l => Array.Find(earlier, e => ReferenceEquals(e.Layer, l)) ?? new CompiledLayer(l, l.Channels?.GetValueOrDefault(Layer.Weight)?.ActiveCurve?.Compile()))];

    private static IEnumerable<Layer> Active(ImmutableArray<Layer> layers)
    {
        var isSolo = layers.Any(l => l.Solo);
        return layers.Where(l => !l.Muted && (l.Solo || !isSolo));
    }
}

/// <summary>What the layers of a shot do to the channels of one owner. Immutable once made.</summary>
internal sealed class LayerStack
{
    // Those of the layers that have a channel here.
    private readonly CompiledLayer[] _layers;
    private readonly RotationOrder _order = RotationOrder.Xyz;
    // For each channel in a layer, the lowest first; null for those that are in none.
    private readonly Part[]?[] _parts;
    // The channels in layers that are no part of a rotation that is worked out together.
    private readonly int[] _layered;
    private readonly TurnPart[] _turns = [];

    private LayerStack(CompiledLayer[] layers, Part[]?[] parts, RotationOrder? order)
    {
        (_layers, _parts) = (layers, parts);
        _layered = [.. Enumerable.Range(0, parts.Length).Where(c => parts[c] is not null)];
        if (order is null)
        {
            return;
        }
        _order = order.Value;
        var count = order == RotationOrder.Quaternion ? 4 : 3;
        var turns = parts.AsSpan(CompiledOwner.FirstOfRotation, count).ToArray();
        if (Array.Exists(turns, t => t is not null && (count == 4 || Array.Exists(t, p => !layers[p.Layer].IsOverride))))
        {
            TurnCount = count;
            _layered = [.. _layered.Where(c => !IsTurn(c))];
            _turns = [.. Enumerable.Range(0, layers.Length).Select(l => new TurnPart(l, [.. turns.Select(t => t is null ? null : Array.Find(t, p => p.Layer == l))])).Where(t => t.IsSet != 0)];
        }
    }

    /// <param name="layers">Those that have a say.</param>
    /// <param name="list">The channels of the owner.</param>
    /// <param name="channels">Those that are set.</param>
    /// <param name="order">The order of the owner's rotations; null where it is no node.</param>
    /// <param name="compile">Gives the evaluator of a curve.</param>
    /// <returns>Null where no layer has a say here.</returns>
    internal static LayerStack? Of(
        CompiledLayer[] layers, ChannelList list, ImmutableSortedDictionary<string, Channel>? channels, RotationOrder? order, Func<Curve, CurveEvaluator> compile)
    {
        if (layers.Length == 0 || channels is null || !channels.Keys.Any(p => p.Contains(Layer.Mark, StringComparison.Ordinal)))
        {
            return null;
        }
        layers = Array.FindAll(layers, l => channels.Keys.Any(p => p.EndsWith($"{Layer.Mark}{l.Layer.Id}", StringComparison.Ordinal)));
        var parts = new Part[]?[list.Count];
        for (var c = 0; c < parts.Length; c++)
        {
            List<Part>? found = null;
            for (var l = 0; l < layers.Length; l++)
            {
                var id = layers[l].Layer.Id;
                if (channels.TryGetValue($"{list[c].Path}{Layer.Mark}{id}", out var channel)
                    || (list[c].Like is { } like && !channels.ContainsKey(list[c].Path) && channels.TryGetValue($"{like}{Layer.Mark}{id}", out channel)))
                {
                    (found ??= []).Add(new(l, channel.Value, channel.ActiveCurve, channel.ActiveCurve is { } curve ? compile(curve) : null));
                }
            }
            parts[c] = found?.ToArray();
        }
        return Array.TrueForAll(parts, p => p is null) ? null : new(layers, parts, order);
    }

    /// <summary>How many channels of the rotation are worked out together, from its first: 3 where they are angles, 4 for a quaternion; 0 where each is by itself.</summary>
    internal int TurnCount { get; }

    /// <summary>The curves of all layers.</summary>
    internal IEnumerable<Curve> Curves => _parts.OfType<Part[]>().SelectMany(p => p).Select(p => p.Curve).OfType<Curve>();

    internal CurveEvaluator? EvaluatorOf(Curve curve) => _parts.OfType<Part[]>().SelectMany(p => p).FirstOrDefault(p => ReferenceEquals(p.Curve, curve))?.Evaluator;

    /// <summary>Whether a layer has a say in a channel.</summary>
    internal bool IsIn(int channel) => _parts[channel] is not null || IsTurn(channel);

    /// <summary>Whether a layer makes a channel another from frame to frame.</summary>
    internal bool IsAnimated(int channel)
    {
        bool Moves(int c) => _parts[c]?.Any(p => p.Evaluator is not null || _layers[p.Layer].Weight is not null) == true;
        return Moves(channel) || (IsTurn(channel) && Enumerable.Range(CompiledOwner.FirstOfRotation, TurnCount).Any(Moves));
    }

    /// <summary>Whether a channel is of a rotation that is worked out together.</summary>
    internal bool IsTurn(int channel) => channel >= CompiledOwner.FirstOfRotation && channel < CompiledOwner.FirstOfRotation + TurnCount;

    /// <summary>Lays the layers over the values of an owner's first channels.</summary>
    internal void Apply(double frame, Span<double> values)
    {
        Span<double> weights = stackalloc double[_layers.Length];
        for (var l = 0; l < weights.Length; l++)
        {
            weights[l] = _layers[l].WeightAt(frame);
        }
        foreach (var c in _layered)
        {
            if (c >= values.Length)
            {
                break;
            }
            var v = values[c];
            foreach (var part in _parts[c]!)
            {
                // What is faded out costs nothing.
                if (weights[part.Layer] == 0)
                {
                    continue;
                }
                v = Layering.Lay(v, part.At(frame), weights[part.Layer], _layers[part.Layer].IsOverride);
            }
            values[c] = v;
        }
        if (TurnCount > 0 && values.Length >= CompiledOwner.FirstOfRotation + TurnCount)
        {
            Turn(frame, weights, values.Slice(CompiledOwner.FirstOfRotation, TurnCount));
        }
    }

    private void Turn(double frame, ReadOnlySpan<double> weights, Span<double> values)
    {
        Span<double> own = stackalloc double[4];
        var sum = new TurnSum(_order, values);
        foreach (var turn in _turns)
        {
            if (weights[turn.Layer] == 0)
            {
                continue;
            }
            turn.Evaluate(frame, own);
            sum.Lay(own, turn.IsSet, weights[turn.Layer], _layers[turn.Layer].IsOverride);
        }
        sum.Finish();
    }

    /// <summary>Lays the layers over one channel that is no part of a rotation, on evenly spaced frames.</summary>
    internal void Sample(int channel, double first, double step, Span<double> values)
    {
        var own = new double[values.Length];
        foreach (var part in _parts[channel]!)
        {
            var layer = _layers[part.Layer];
            if (part.Evaluator is null)
            {
                Array.Fill(own, part.Static);
            }
            else
            {
                part.Evaluator.Sample(first, step, own);
            }
            for (var i = 0; i < own.Length; i++)
            {
                values[i] = Layering.Lay(values[i], own[i], layer.WeightAt(first + i * step), layer.IsOverride);
            }
        }
    }

    private sealed record Part(int Layer, double Static, Curve? Curve, CurveEvaluator? Evaluator)
    {
        internal double At(double frame) => Evaluator is null ? Static : Evaluator.Evaluate(frame);
    }

    /// <summary>What one layer has of a rotation.</summary>
    private sealed class TurnPart
    {
        private readonly Part?[] _parts;
        // Evaluates the four curves of a quaternion together; null where there is nothing of this.
        private readonly SphericalEvaluator? _slerp;

        internal TurnPart(int layer, Part?[] parts)
        {
            (Layer, _parts) = (layer, parts);
            for (var i = 0; i < parts.Length; i++)
            {
                IsSet |= parts[i] is null ? 0 : 1 << i;
            }
            _slerp = parts.Length < 4 ? null : SphericalEvaluator.Of(parts.Select(p => p?.Curve).ToArray(), c => Array.Find(parts, p => ReferenceEquals(p?.Curve, c))!.Evaluator!);
        }

        internal int Layer { get; }

        /// <summary>A bit for each number that it has.</summary>
        internal int IsSet { get; }

        internal void Evaluate(double frame, Span<double> own)
        {
            if (_slerp is not null && _slerp.TryEvaluate(frame, out var q))
            {
                (own[0], own[1], own[2], own[3]) = q;
                return;
            }
            for (var i = 0; i < _parts.Length; i++)
            {
                own[i] = _parts[i]?.At(frame) ?? (i == 3 ? 1 : 0);
            }
        }
    }
}
