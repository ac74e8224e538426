using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>Several findings mended at once.</summary>
public static class Mending
{
    /// <summary>The change that mends findings one after the other, as one step. What no longer can be, after those before it, is left for the next look.</summary>
    /// <param name="shot">The shot in which they were found.</param>
    /// <exception cref="Refusal">None of them can be mended by itself.</exception>
    public static Edit Of(Shot shot, IReadOnlyList<Finding> findings, CancellationToken cancel = default)
    {
        var edits = new List<Edit>();
        Refusal? why = null;
        foreach (var finding in findings)
        {
            cancel.ThrowIfCancellationRequested();
            try
            {
                if (finding.Fix is { } fix)
                {
                    shot = fix.Apply(shot, cancel);
                    edits.Add(fix);
                }
            }
            catch (Refusal refusal)
            {
                why ??= refusal;
            }
        }
        return edits.Count switch
        {
            0 => throw why ?? new Refusal("This finding cannot be mended by itself: go to its frame and look."),
            1 => edits[0],
            _ => new Batch($"Fix {edits.Count} findings", edits),
        };
    }
}
