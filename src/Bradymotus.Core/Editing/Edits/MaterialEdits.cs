using System.Collections.Immutable;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Adds a material.</summary>
/// <param name="Like">The id of a material to look like: its channels are taken over, keys and all, and its maps. Null starts from what is given.</param>
public sealed record AddMaterial(Material Material, string? Like = null) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot with
    {
        Materials = shot.Materials.Add(Like is null ? Material : Material with { Channels = shot.Material(Like).Channels, Maps = shot.Material(Like).Maps }),
    };

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Add material {Material.Name}";
}

/// <summary>Removes a material that no object uses.</summary>
public sealed record RemoveMaterial(string Id) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var material = shot.Material(Id);
        if (shot.Nodes.OfType<MeshNode>().FirstOrDefault(m => m.Material == Id || m.PartMaterials.Contains(Id)) is { } user)
        {
            throw new Refusal($"The material “{material.Name}” is used by “{user.Name}”: give that another one first.");
        }
        return shot with { Materials = shot.Materials.Remove(material) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove material {before.FindMaterial(Id)?.Name}";
}

/// <summary>Gives a material other maps. Channels of maps that are no longer there go with them.</summary>
/// <param name="Id">Of the material.</param>
/// <param name="Maps">All that it has then.</param>
public sealed record SetMaps(string Id, ImmutableArray<SurfaceMap> Maps) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var material = shot.Material(Id);
        // Checked before their channels are asked for.
        var changed = material with { Maps = Maps };
        ShotRules.ValidateMaps(changed);
        var list = ChannelCatalog.For(changed);
        var gone = material.Channels?.Keys.Where(p => list.IndexOf(p) < 0).ToList() ?? [];
        return shot with { Materials = shot.Materials.Replace(material, changed with { Channels = Instances.OrNone(material.Channels?.RemoveRange(gone)) }) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Change the maps of {before.FindMaterial(Id)?.Name}";
}
