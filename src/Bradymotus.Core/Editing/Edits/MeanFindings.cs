using System.Collections.Immutable;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Says that findings are meant so, and are not to be found again; or that they are not.</summary>
public sealed record MeanFindings(ImmutableArray<MeantFinding> Findings, bool Meant = true) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        if (Findings.IsDefaultOrEmpty)
        {
            throw new Refusal("There is nothing that could be meant: choose a finding first.");
        }
        foreach (var finding in Findings)
        {
            (finding ?? throw new Refusal("A finding that is meant is missing: give it a kind and what it is about.")).Validate();
        }
        var rest = shot.Meant.RemoveAll(m => Findings.Any(f => IsSame(f, m)));
        return shot with { Meant = Meant ? rest.AddRange(Findings) : rest };
    }

    private static bool IsSame(MeantFinding a, MeantFinding b) => a.Kind == b.Kind && a.About.ToHashSet().SetEquals(b.About);

    /// <inheritdoc/>
    public override string Describe(Shot before) => Meant ? "Ignore a finding" : "Show ignored findings";
}
