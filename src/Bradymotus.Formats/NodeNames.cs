using Bradymotus.Core.Scene;

namespace Bradymotus.Formats;

/// <summary>Names of what is brought in: as they are in the file where they can be, and numbered among siblings.</summary>
internal sealed class NodeNames
{
    private readonly HashSet<(string? Parent, string Name)> _taken = [];
    private readonly Dictionary<(string? Parent, string Name), int> _numbers = [];

    /// <summary>The name without what a name cannot hold, or another where nothing is left.</summary>
    internal static string Clean(string? name, string otherwise)
    {
        var clean = string.Concat((name ?? "").Select(c => c == '/' || char.IsControl(c) ? '_' : c));
        clean = clean[..Math.Min(clean.Length, ShotRules.MostNameLength)];
        return string.IsNullOrWhiteSpace(clean) ? otherwise : clean;
    }

    /// <summary>A name that no sibling has.</summary>
    internal string Take(string? name, string otherwise, string? parent = null)
    {
        var clean = Clean(name, otherwise);
        var free = clean;
        while (!_taken.Add((parent, free)))
        {
            // Counted on, so that many of one name do not each try all numbers before.
            var n = _numbers[(parent, clean)] = _numbers.GetValueOrDefault((parent, clean), 1) + 1;
            free = $"{clean[..Math.Min(clean.Length, ShotRules.MostNameLength - 10)]} {n}";
        }
        return free;
    }
}
