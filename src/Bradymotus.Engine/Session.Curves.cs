using System.Collections.Immutable;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>Curves as they are drawn and copied.</summary>
internal sealed partial class Session
{
    /// <summary>What all layers together make of a channel at evenly spaced frames.</summary>
    internal double[] SampleSum(ChannelAddress address, double first, double step, int count)
    {
        var values = new double[count];
        Compiled.Sample(address.Base, first, step, values);
        return values;
    }

    // What is drawn of a curve is asked for again with every other part of time.
    private readonly System.Runtime.CompilerServices.ConditionalWeakTable<Curve, CurveEvaluator> _evaluators = [];

    private CurveEvaluator EvaluatorOf(Curve curve) => _evaluators.GetValue(curve, c => c.Compile());

    internal double[] Sample(ChannelAddress address, double first, double step, int count)
    {
        var values = new double[count];
        var channel = Shown.Channel(address);
        if (channel.Curve is { } curve)
        {
            EvaluatorOf(curve).Sample(first, step, values);
        }
        else
        {
            Array.Fill(values, channel.Value);
        }
        return values;
    }

    /// <summary>How fast a channel changes at evenly spaced frames, in value per frame; or how fast that changes.</summary>
    internal double[] Slopes(ChannelAddress address, double first, double step, int count, bool acceleration)
    {
        var values = new double[count];
        if (Shown.Channel(address).Curve is not { } curve)
        {
            return values;
        }
        var evaluator = EvaluatorOf(curve);
        var apart = acceleration ? 0.5 : 0.05;
        for (var i = 0; i < count; i++)
        {
            var frame = first + i * step;
            var (before, after) = (evaluator.Evaluate(frame - apart), evaluator.Evaluate(frame + apart));
            values[i] = acceleration ? (after - 2 * evaluator.Evaluate(frame) + before) / (apart * apart) : (after - before) / (2 * apart);
        }
        return values;
    }

    /// <summary>A curve for drawing; null where there is none.</summary>
    /// <param name="numbers">Of its keys; see <see cref="CurveView.NumbersOfKey"/>.</param>
    internal CurveView? CurveOf(ChannelAddress address, out double[] numbers)
    {
        numbers = [];
        if (!IsThere(address) || Shown.Channel(address).Curve is not { } curve)
        {
            return null;
        }
        var (looks, eases) = (new List<KeyLook>(), new List<EaseSamples>());
        var n = 0;
        numbers = new double[CurveView.NumbersOfKey * curve.Keys.Length];
        Key? last = null;
        for (var i = 0; i < curve.Keys.Length; i++)
        {
            var k = curve.Keys[i];
            if (k.Segment is EaseSegment && i < curve.Keys.Length - 1)
            {
                var samples = new double[49];
                var step = (curve.Keys[i + 1].Frame - k.Frame) / (samples.Length - 1);
                EvaluatorOf(curve).Sample(k.Frame, step, samples);
                samples[^1] = curve.Keys[i + 1].Value;
                eases.Add(new(i, samples));
            }
            // Mostly as the key before.
            if (last is null || !ReferenceEquals(k.Segment, last.Segment) || !ReferenceEquals(k.In, last.In) || !ReferenceEquals(k.Out, last.Out) || k.Joined != last.Joined)
            {
                static Handle Kind(Handle handle) => handle is FreeHandle ? FreeKind : handle;
                var look = new KeyLook(k.Segment, Kind(k.In), Kind(k.Out), k.Joined);
                n = looks.IndexOf(look);
                if (n < 0)
                {
                    n = looks.Count;
                    looks.Add(look);
                }
                last = k;
            }
            var key = numbers.AsSpan(CurveView.NumbersOfKey * i, CurveView.NumbersOfKey);
            (key[0], key[1], key[6]) = (k.Frame, k.Value, n);
            (key[2], key[3]) = ControlPoints.Offset(curve, i, KeySide.In);
            (key[4], key[5]) = ControlPoints.Offset(curve, i, KeySide.Out);
        }
        return new([.. looks], [.. eases], curve.Before, curve.After);
    }

    private static readonly FreeHandle FreeKind = new(0, 0);

    internal ImmutableArray<ChannelKeys> Copy(IEnumerable<KeyAddress> keys) =>
        [.. keys.GroupBy(k => k.Address).Select(g =>
        {
            var curve = Shown.Channel(g.Key).Curve ?? throw new Refusal("There are no keys to copy: select some first.");
            return new ChannelKeys(g.Key, [.. g.Select(k => curve.KeyAt(k.Frame)).OfType<Key>()]);
        })];
}
