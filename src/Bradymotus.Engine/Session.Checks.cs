using Bradymotus.Core.Checks;
using Bradymotus.Core.Editing;

namespace Bradymotus.Engine;

/// <summary>The checks of the motion, in small pieces.</summary>
internal sealed partial class Session
{
    private readonly CheckMemory _checked = new();
    private MotionChecks? _checks;

    /// <summary>What the checks have found that ran last.</summary>
    internal IReadOnlyList<Finding> Findings { get; private set; } = [];

    /// <summary>Begins to check the shot as it is now. What was found before stays until this is done.</summary>
    internal void BeginChecks() => _checks = new(History.Current, Meshes, _checked, Compiled);

    /// <summary>Goes on with the checks for about so long.</summary>
    /// <returns>Whether they are done.</returns>
    internal bool Check(double milliseconds)
    {
        if (_checks is not { } checks)
        {
            return true;
        }
        if (!WorkFor(milliseconds, checks.Step))
        {
            return false;
        }
        (Findings, _checks) = (checks.Findings, null);
        return true;
    }

    /// <summary>The change that mends findings, by their places in the list.</summary>
    internal Edit Mend(IEnumerable<int> findings) => Mending.Of(History.Current, [.. findings.Where(i => i >= 0 && i < Findings.Count).Select(i => Findings[i])]);
}
