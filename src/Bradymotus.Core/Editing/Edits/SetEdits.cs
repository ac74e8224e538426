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
        return shot with { Sets = shot.Sets.With(set, s => s.Id) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => before.Sets.Any(s => s.Id == Set?.Id) ? $"Change the set {Set.Name}" : $"Keep the set {Set?.Name}";
}

/// <summary>Removes sets; their objects stay.</summary>
public sealed record RemoveSets(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot with { Sets = shot.Sets.Without(Ids, s => s.Id, "set") };

    /// <inheritdoc/>
    public override string Describe(Shot before) => Ids.Count == 1 ? $"Remove the set {before.Sets.FirstOrDefault(s => s.Id == Ids[0])?.Name}" : $"Remove {Plural(Ids.Count, "set")}";
}
