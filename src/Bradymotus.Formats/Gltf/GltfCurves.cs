using System.Collections.Immutable;
using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using SharpGLTF.Schema2;
using Key = Bradymotus.Core.Curves.Key;

namespace Bradymotus.Formats.Gltf;

/// <summary>
/// Samplers of glTF 2.0 (appendix C) as curves, one for each number. A cubic segment from time t to t + d with the values a, b and the tangents
/// p, q is the Bézier segment of a, a + p·d/3, b − q·d/3, b, with its handles a third of it long.
/// </summary>
internal static class GltfCurves
{
    /// <param name="count">How many numbers a value has.</param>
    /// <param name="numbers">Puts a value into as many numbers.</param>
    /// <returns>A curve for each number, or null where the sampler has no key.</returns>
    /// <exception cref="Refusal">It has more keys than a shot can have.</exception>
    internal static Curve[]? Read<T>(IAnimationSampler<T> sampler, FrameRate rate, int count, Action<T, double[]> numbers)
    {
        var keys = new List<(double Frame, double[] In, double[] Value, double[] Out)>();
        double[] Numbers(T value)
        {
            var into = new double[count];
            numbers(value, into);
            return into;
        }
        var isCubic = sampler.InterpolationMode == AnimationInterpolationMode.CUBICSPLINE;
        if (isCubic)
        {
            foreach (var (time, (inTangent, value, outTangent)) in sampler.GetCubicKeys())
            {
                Add(rate.Frame(time), Numbers(inTangent), Numbers(value), Numbers(outTangent));
            }
        }
        else
        {
            foreach (var (time, value) in sampler.GetLinearKeys())
            {
                Add(rate.Frame(time), [], Numbers(value), []);
            }
        }
        return keys.Count == 0 ? null : [.. Enumerable.Range(0, count).Select(Of)];

        void Add(double frame, double[] inTangent, double[] value, double[] outTangent)
        {
            // What is no number, or no later than the key before it, is no key.
            if (double.IsFinite(frame) && Array.TrueForAll(value, double.IsFinite) && (keys.Count == 0 || frame - keys[^1].Frame >= Curve.LeastGap))
            {
                if ((long)count * keys.Count >= ShotRules.MostKeys)
                {
                    throw new Refusal($"A track of the animation has more than the {ShotRules.MostKeys} keys that a shot can have: thin it out before you bring it in.");
                }
                keys.Add((frame, inTangent, value, outTangent));
            }
        }

        Curve Of(int i)
        {
            var own = ImmutableArray.CreateBuilder<Key>(keys.Count);
            for (var k = 0; k < keys.Count; k++)
            {
                var (frame, inTangent, value, outTangent) = keys[k];
                Handle before = Handle.Auto, after = Handle.Auto;
                if (isCubic)
                {
                    // Tangents are by the second.
                    Handle Third(double frames, double tangent) => new FreeHandle(frames / 3, double.IsFinite(tangent) ? tangent * rate.Seconds(frames) / 3 : 0);
                    before = k > 0 ? Third(keys[k - 1].Frame - frame, inTangent[i]) : Handle.Auto;
                    after = k + 1 < keys.Count ? Third(keys[k + 1].Frame - frame, outTangent[i]) : Handle.Auto;
                }
                var segment = sampler.InterpolationMode switch
                {
                    AnimationInterpolationMode.STEP => Segment.Hold,
                    AnimationInterpolationMode.LINEAR => Segment.Linear,
                    _ => Segment.Bezier,
                };
                own.Add(new Key(frame, value[i], segment, before, after, Joined: !isCubic));
            }
            return new Curve(own.MoveToImmutable());
        }
    }

    /// <summary>The quaternions of a sampler that is not cubic, each with the sign that makes it nearest to the one before: they mean the same, and their curves are smooth.</summary>
    internal static Curve[]? ReadRotations(IAnimationSampler<Quaternion> sampler, FrameRate rate)
    {
        var last = default(Quaternion?);
        var isCubic = sampler.InterpolationMode == AnimationInterpolationMode.CUBICSPLINE;
        return Read(sampler, rate, 4, (q, into) =>
        {
            if (!isCubic)
            {
                q = last is { } before && Quaternion.Dot(before, q) < 0 ? -q : q;
                last = q;
            }
            (into[0], into[1], into[2], into[3]) = (q.X, q.Y, q.Z, q.W);
        });
    }
}
