using Bradymotus.Core.Curves;

namespace Bradymotus.Core.Tests;

/// <summary>Curves against criteria and constructions that are published elsewhere, written down here from their sources.</summary>
public class PublishedCurveTests
{
    private static Key[] Some(Random dice, Func<Handle> handle) =>
        [.. Enumerable.Range(0, 3 + dice.Next(9)).Select(i => new Key(5 * i + 4 * dice.NextDouble(), Math.Round(10 * (dice.NextDouble() - 0.5), dice.Next(4)), In: handle(), Out: handle()))];

    // F. N. Fritsch, R. E. Carlson: Monotone Piecewise Cubic Interpolation, SIAM J. Numer. Anal. 17 (1980), lemmas 1 and 2: with α and β the slopes
    // at both ends over that of the chord, a cubic is monotone if and only if α, β ≥ 0 and α + β ≤ 2, 2α + β ≤ 3, α + 2β ≤ 3 or φ(α, β) ≥ 0.
    [Fact]
    public void Auto_handles_are_monotone_by_the_criterion_of_Fritsch_and_Carlson() => Laws.ForSeeds((dice, _) =>
    {
        var curve = new Curve([.. Some(dice, () => Handle.Auto)]);
        for (var i = 0; i + 1 < curve.Keys.Length; i++)
        {
            var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
            var points = ControlPoints.Of(curve, i);
            // Thirds of the segment: the curve is a cubic of the frame itself.
            Assert.Equal((b.Frame - a.Frame) / 3, points.OutFrames, 9);
            Assert.Equal((a.Frame - b.Frame) / 3, points.InFrames, 9);
            var (m0, m1, chord) = (points.OutValue / points.OutFrames, points.InValue / points.InFrames, (b.Value - a.Value) / (b.Frame - a.Frame));
            if (chord == 0)
            {
                Assert.Equal((0, 0), (m0, m1));
                continue;
            }
            var (α, β) = (m0 / chord, m1 / chord);
            var φ = α - (2 * α + β - 3) * (2 * α + β - 3) / (3 * (α + β - 2));
            const double Slack = 1e-9;
            Assert.True(α >= -Slack && β >= -Slack && (α + β <= 2 + Slack || 2 * α + β <= 3 + Slack || α + 2 * β <= 3 + Slack || φ >= -Slack), $"α {α}, β {β}");
        }
        // At a local extreme the derivative of what is monotone on both sides is 0.
        for (var i = 1; i + 1 < curve.Keys.Length; i++)
        {
            if ((curve.Keys[i].Value - curve.Keys[i - 1].Value) * (curve.Keys[i + 1].Value - curve.Keys[i].Value) <= 0)
            {
                Assert.Equal(0, ControlPoints.Offset(curve, i, KeySide.Out).Value, 12);
                Assert.Equal(0, ControlPoints.Offset(curve, i, KeySide.In).Value, 12);
            }
        }
    }, 500);

    // P. de Casteljau (1959), as in G. Farin: Curves and Surfaces for CAGD: the points of repeated linear interpolation at t are the control points of both parts.
    [Fact]
    public void A_key_that_is_put_on_a_curve_has_the_handles_of_de_Casteljau() => Laws.ForSeeds((dice, _) =>
    {
        var curve = new Curve([.. Some(dice, () => new FreeHandle(0, 0))]);
        // No longer than a third of any segment: longer ones may need a second key where time runs slowest.
        curve = curve.WithKeys([.. curve.Keys.Select(k => k with { In = new FreeHandle(-0.33 * dice.NextDouble(), 8 * (dice.NextDouble() - 0.5)), Out = new FreeHandle(0.33 * dice.NextDouble(), 8 * (dice.NextDouble() - 0.5)), Joined = false })]);
        var i = dice.Next(curve.Keys.Length - 1);
        var (a, b, points) = (curve.Keys[i], curve.Keys[i + 1], ControlPoints.Of(curve, i));
        (double X, double Y)[] hull = [(a.Frame, a.Value), (a.Frame + points.OutFrames, a.Value + points.OutValue), (b.Frame + points.InFrames, b.Value + points.InValue), (b.Frame, b.Value)];
        var t = 0.05 + 0.9 * dice.NextDouble();
        static (double X, double Y) Mix((double X, double Y) p, (double X, double Y) q, double t) => ((1 - t) * p.X + t * q.X, (1 - t) * p.Y + t * q.Y);
        var (p01, p12, p23) = (Mix(hull[0], hull[1], t), Mix(hull[1], hull[2], t), Mix(hull[2], hull[3], t));
        var (p012, p123) = (Mix(p01, p12, t), Mix(p12, p23, t));
        var middle = Mix(p012, p123, t);
        if (middle.X - a.Frame < 1e-3 || b.Frame - middle.X < 1e-3)
        {
            return;
        }
        var divided = KeyInsertion.Insert(curve, middle.X);
        Assert.Equal(curve.Keys.Length + 1, divided.Keys.Length);
        var (left, right) = (ControlPoints.Of(divided, i), ControlPoints.Of(divided, i + 1));
        void Same((double X, double Y) expected, double x, double y)
        {
            Assert.Equal(expected.X, x, 1e-6);
            Assert.Equal(expected.Y, y, 1e-5);
        }
        Same(middle, divided.Keys[i + 1].Frame, divided.Keys[i + 1].Value);
        Same(p01, a.Frame + left.OutFrames, a.Value + left.OutValue);
        Same(p012, middle.X + left.InFrames, middle.Y + left.InValue);
        Same(p123, middle.X + right.OutFrames, middle.Y + right.OutValue);
        Same(p23, b.Frame + right.InFrames, b.Value + right.InValue);
    }, 500);
}
