using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core.Editing;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>The checks of the motion.</summary>
internal static partial class Bridge
{
    /// <summary>Begins to check the motion of the shot as it is now.</summary>
    [JSExport]
    internal static void BeginChecks() => Safely(() =>
    {
        Open.BeginChecks();
        return true;
    }, false);

    /// <summary>Goes on with the checks for about so many milliseconds.</summary>
    /// <returns>Whether they are done.</returns>
    [JSExport]
    internal static bool Check(double milliseconds) => Safely(() => Open.Check(milliseconds), true);

    /// <summary>What the checks have found: a list of <see cref="Core.Checks.Finding"/>.</summary>
    [JSExport]
    internal static byte[] Findings() => Safely<byte[]>(() => Packed.Write(Open.Findings.ToArray()), []);

    /// <summary>Mends findings, as one step.</summary>
    /// <param name="findings">Their places in the list.</param>
    [JSExport]
    internal static byte[] Mend(int[] findings, string id) => Answer(() => Made(new EditEntry(Open.Mend(findings)) { Id = id }));
}
