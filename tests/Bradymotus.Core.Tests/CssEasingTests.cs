using Bradymotus.Core.Curves;

namespace Bradymotus.Core.Tests;

/// <summary>CSS Easing Functions Level 2, W3C: sections 2.2 (linear()), 2.3 (cubic-bezier()) and 2.4 (steps()).</summary>
public class CssEasingTests
{
    private static double At(string easing, double t) => CssEasing.Parse(easing).Evaluate(t);

    [Theory]
    // Of the standard: "ease-in-out" meets its middle, the others mirror each other.
    [InlineData("ease-in-out", 0.5, 0.5)]
    [InlineData("linear", 0.3, 0.3)]
    // The points at which linear() of the standard's example, linear(0, 0.25, 1), and its variants lie.
    [InlineData("linear(0, 0.25, 1)", 0.5, 0.25)]
    [InlineData("linear(0, 0.25 75%, 1)", 0.75, 0.25)]
    [InlineData("linear(0, 0.25 25% 75%, 1)", 0.5, 0.25)]
    [InlineData("linear(0, 0.5, 0.2 80%, 1)", 0.4, 0.5)]
    [InlineData("steps(4)", 0.3, 0.25)]
    [InlineData("steps(4, jump-start)", 0.3, 0.5)]
    [InlineData("steps(4, jump-none)", 0.3, 1 / 3.0)]
    [InlineData("steps(4, jump-both)", 0.3, 0.4)]
    [InlineData("step-end", 0.99, 0)]
    [InlineData(" EASE-OUT; ", 1, 1)]
    public void Easings_have_the_values_of_the_standard(string easing, double t, double value) => Assert.Equal(value, At(easing, t), 1e-6);

    [Fact]
    public void In_and_out_mirror_each_other()
    {
        for (var t = 0.0; t <= 1; t += 0.05)
        {
            Assert.Equal(1 - At("ease-in", t), At("ease-out", 1 - t), 1e-9);
        }
    }

    [Theory]
    [InlineData("")]
    [InlineData("hop")]
    [InlineData("cubic-bezier(1, 2, 3)")]
    [InlineData("cubic-bezier(-0.1, 0, 1, 1)")]
    [InlineData("cubic-bezier(0, NaN, 1, 1)")]
    [InlineData("linear(1)")]
    [InlineData("linear(0, 1 50% 60% 70%, 1)")]
    [InlineData("linear(0 10%, 1)")]
    [InlineData("steps(0)")]
    [InlineData("steps(1, jump-none)")]
    [InlineData("spring(1, 2)")]
    public void What_is_no_easing_is_refused_with_a_sentence(string text) =>
        Assert.Contains("is no easing", Assert.Throws<Refusal>(() => CssEasing.Parse(text)).Message, StringComparison.Ordinal);

    [Theory]
    [InlineData("cubic-bezier(0.3, -0.2, 0.1, 1.4)")]
    [InlineData("linear")]
    [InlineData("step-end")]
    public void A_segment_with_an_easing_is_written_as_that_easing(string easing)
    {
        var curve = CssEasing.Apply(new Curve([new(10, 3), new(50, -2), new(60, 0)]), [0], CssEasing.Parse(easing));
        Assert.Equal(easing, CssEasing.Format(curve, 0));
        Assert.Equal([3, -2, 0.0], [curve.Evaluate(10), curve.Evaluate(50), curve.Evaluate(60)]);
    }

    [Fact]
    public void An_easing_of_many_parts_becomes_keys_between_the_two()
    {
        var curve = CssEasing.Apply(new Curve([new(0, 0), new(100, 10), new(200, 0)]), [0, 1], CssEasing.Parse("linear(0, 0.9 20%, 0.4 60%, 1)"));
        Assert.Equal([0, 20, 60, 100, 120, 160, 200.0], curve.Keys.Select(k => k.Frame));
        Assert.Equal([0, 9, 4, 10, 1, 6, 0.0], curve.Keys.Select(k => Math.Round(k.Value, 9)));
        Assert.Throws<Refusal>(() => CssEasing.Apply(curve, [0], new Curve([new(0, 0), new(5, 1)])));
        // Families are written as a list of points.
        Assert.StartsWith("linear(0, ", CssEasing.Format(new Curve([new(0, 0, new EaseSegment(EaseFamily.Bounce)), new(10, 4)]), 0), StringComparison.Ordinal);
    }
}
