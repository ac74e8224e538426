using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>The animation of one channel, taken along by the name of its object.</summary>
/// <param name="Name">Of the object.</param>
/// <param name="Path">Of the channel, without a layer.</param>
public sealed record MotionPart(string Name, string Path, Curve Curve) : INamedPart;

/// <summary>
/// Puts animation that was taken from objects, of this shot or of another, onto objects: that of one object onto each of the targets, that of
/// several onto those of the same names. Keys that are there already between its first and its last give way.
/// </summary>
/// <param name="Parts">What was taken.</param>
/// <param name="First">The frame of the first key when it was taken.</param>
/// <param name="Frame">The frame that this comes to.</param>
/// <param name="Targets">The ids of the objects that it is for, with what hangs below them; none is all of the shot.</param>
/// <param name="Time">How much longer it takes, above 0.</param>
/// <param name="Size">How much further positions go.</param>
/// <param name="Mirror">Left for right: by the names of objects and channels, and mirrored across the X axis.</param>
/// <param name="Layer">The id of the layer that it goes into; null is below all layers.</param>
/// <param name="KeepPlace">Positions begin where each object is on that frame, and go as far from there as the motion goes from its own beginning.</param>
public sealed record PutMotion(
    ImmutableArray<MotionPart> Parts, double First, double Frame, IReadOnlyList<string> Targets, double Time = 1, double Size = 1, bool Mirror = false,
        string? Layer = null, bool KeepPlace = false) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(First, Frame, Time, Size);
        if (Parts.IsDefaultOrEmpty || !(Time > 0))
        {
            throw new Refusal("The animation is empty, or would take no time: copy some, and give it a length above 0.");
        }
        var fits = Parts.Fits(shot, Targets, Mirror, Layer).ToList();
        if (fits.Count == 0)
        {
            throw Parts.NoneFits("animation");
        }
        return ForChannels(shot, fits, f => f.Address, (curve, f) =>
        {
            var isPosition = f.Part.Path.StartsWith("transform.translate", StringComparison.Ordinal);
            var scale = f.Sign * (isPosition ? Size : 1);
            var own = isPosition && KeepPlace ? shot.Channel(f.Address).Evaluate(Frame) - scale * f.Part.Curve.Evaluate(First) : 0;
            var by = new KeyTransform(Frame - First, own, First, Time, 0, scale);
            by.Validate();
            var keys = f.Part.Curve.Keys.Select(by.Apply).ToImmutableArray();
            if (curve is null)
            {
                return f.Part.Curve.WithKeys(keys).UntilAt(by.Frame);
            }
            var (first, last) = (keys[0].Frame, keys[^1].Frame);
            return curve.WithKeys(CurveEdits.Merged([.. curve.Keys.Where(k => k.Frame < first || k.Frame > last)], keys.AsSpan()));
        }, cancel);
    }

    /// <summary>What fits and what does not, a sentence each; the first says how much fits.</summary>
    public IReadOnlyList<string> Report(Shot shot) => Parts.Report(Parts.Fits(shot, Targets, Mirror, Layer).ToList());

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Put animation on frame {CurveRules.Number(Frame)}";
}
