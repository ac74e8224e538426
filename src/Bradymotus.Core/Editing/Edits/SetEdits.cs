using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Keeps objects as a set, or changes the one that has its id.</summary>
public sealed record PutSet(ObjectSet Set) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var set = Set ?? throw new Refusal("There is no set to keep: say its name and its objects.");
        set.Validate();
        if (shot.Sets.Any(s => s.Id != set.Id && s.Name == set.Name))
        {
            throw new Refusal($"There is already a set named “{set.Name}”: choose another name.");
        }
        var at = shot.Sets.ToList().FindIndex(s => s.Id == set.Id);
        return shot with { Sets = at < 0 ? shot.Sets.Add(set) : shot.Sets.SetItem(at, set) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => before.Sets.Any(s => s.Id == Set?.Id) ? $"Change the set {Set.Name}" : $"Keep the set {Set?.Name}";
}

/// <summary>Removes sets; their objects stay.</summary>
public sealed record RemoveSets(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        foreach (var id in Ids)
        {
            if (shot.Sets.All(s => s.Id != id))
            {
                throw new Refusal("This set is not there any more: it may have been removed.");
            }
        }
        return shot with { Sets = shot.Sets.RemoveAll(s => Ids.Contains(s.Id)) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Ids.Count == 1 ? $"Remove the set {before.Sets.FirstOrDefault(s => s.Id == Ids[0])?.Name}" : $"Remove {Plural(Ids.Count, "set")}";
}
