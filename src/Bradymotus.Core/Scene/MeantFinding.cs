using System.Collections.Immutable;
using Bradymotus.Core.Checks;

namespace Bradymotus.Core.Scene;

/// <summary>Something that the checks find in a shot and that is meant so: they are silent about it, on whatever frame it is.</summary>
/// <param name="About">The ids of the objects and the addresses of the channels that it is about.</param>
public sealed record MeantFinding(FindingKind Kind, ImmutableArray<string> About)
{
    /// <summary>So many can be meant in one shot.</summary>
    public const int Most = 1000;

    private const int MostAbout = 64;
    private const int LongestAbout = 500;

    /// <exception cref="Refusal">It is about nothing, or the kind is not known.</exception>
    internal void Validate()
    {
        if (!Enum.IsDefined(Kind) || About.IsDefaultOrEmpty || About.Length > MostAbout || About.Any(a => a is not { Length: > 0 and <= LongestAbout }))
        {
            throw new Refusal("What is meant has no known kind, or is about nothing: give it a kind of finding, and the objects and channels that it is about.");
        }
    }

    /// <summary>Whether a finding is this one.</summary>
    internal bool Covers(Finding finding) => finding.Kind == Kind && About.ToHashSet().SetEquals(finding.Nodes.Concat(finding.Channels));
}
