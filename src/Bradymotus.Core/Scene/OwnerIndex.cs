using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>Where nodes and materials stand in the lists of a shot, by id. Belongs to two lists, and knows whether it still fits.</summary>
internal sealed class OwnerIndex : IEquatable<OwnerIndex>
{
    private readonly ImmutableArray<Node> _nodes;
    private readonly ImmutableArray<Material> _materials;
    private readonly Dictionary<string, int> _nodePlaces, _materialPlaces;
    private Dictionary<string, List<int>>? _children;
    // The list of nodes that this one was made from by replacing one, and the place of that one.
    private ImmutableArray<Node> _from;
    private int _replaced;

    private OwnerIndex(ImmutableArray<Node> nodes, ImmutableArray<Material> materials, Dictionary<string, int> nodePlaces, Dictionary<string, int> materialPlaces)
    {
        (_nodes, _materials) = (nodes, materials);
        (_nodePlaces, _materialPlaces) = (nodePlaces, materialPlaces);
    }

    internal static OwnerIndex None { get; } = new(default, default, [], []);

    internal bool Fits(ImmutableArray<Node> nodes, ImmutableArray<Material> materials) => _nodes == nodes && _materials == materials;

    internal static OwnerIndex Of(ImmutableArray<Node> nodes, ImmutableArray<Material> materials, OwnerIndex earlier) => new(nodes, materials,
        nodes == earlier._nodes || HasSameIds(nodes, earlier._nodes) ? earlier._nodePlaces : Places(nodes, n => n?.Id),
        materials == earlier._materials ? earlier._materialPlaces : Places(materials, m => m?.Id));

    /// <summary>For lists in which the same ids stand in the same places.</summary>
    internal OwnerIndex Moved(ImmutableArray<Node> nodes, ImmutableArray<Material> materials) => new(nodes, materials, _nodePlaces, _materialPlaces);

    /// <summary>As <see cref="Moved"/>, for a list that differs from this one's in a single place: that is noted.</summary>
    internal OwnerIndex Replaced(ImmutableArray<Node> nodes, int place) => new(nodes, _materials, _nodePlaces, _materialPlaces) { _from = _nodes, _replaced = place };

    /// <summary>
    /// The only places, at most two, in which the nodes differ from an earlier list, where that is known without looking: one was made from the
    /// other, or both from a third, as every step of a drag is.
    /// </summary>
    internal bool KnowsDifference(OwnerIndex earlier, out int one, out int other)
    {
        (one, other) = (_replaced, _replaced);
        if (_from.IsDefault)
        {
            return false;
        }
        if (_from == earlier._nodes)
        {
            return true;
        }
        other = earlier._replaced;
        return _from == earlier._from;
    }

    internal int NodePlace(string id) => _nodePlaces.GetValueOrDefault(id, -1);

    internal int MaterialPlace(string id) => _materialPlaces.GetValueOrDefault(id, -1);

    internal IReadOnlyList<int> Children(string? id)
    {
        if (_children is null)
        {
            var children = new Dictionary<string, List<int>>();
            for (var i = 0; i < _nodes.Length; i++)
            {
                var parent = _nodes[i].Parent ?? "";
                if (!children.TryGetValue(parent, out var list))
                {
                    children.Add(parent, list = []);
                }
                list.Add(i);
            }
            _children = children;
        }
        return _children.TryGetValue(id ?? "", out var found) ? found : [];
    }

    // All are equal, so that shots are compared by what they hold.
    public bool Equals(OwnerIndex? other) => other is not null;

    public override bool Equals(object? obj) => obj is OwnerIndex;

    public override int GetHashCode() => 0;

    private static bool HasSameIds(ImmutableArray<Node> a, ImmutableArray<Node> b)
    {
        if (a.IsDefault || b.IsDefault || a.Length != b.Length)
        {
            return false;
        }
        for (var i = 0; i < a.Length; i++)
        {
            if (!ReferenceEquals(a[i], b[i]) && !ReferenceEquals(a[i]?.Id, b[i]?.Id))
            {
                return false;
            }
        }
        return true;
    }

    // The first of two with one id; shots with such are refused, but not before they have been looked at.
    private static Dictionary<string, int> Places<T>(ImmutableArray<T> items, Func<T, string?> id)
    {
        var places = new Dictionary<string, int>(items.IsDefault ? 0 : items.Length);
        for (var i = 0; !items.IsDefault && i < items.Length; i++)
        {
            if (id(items[i]) is { } key)
            {
                places.TryAdd(key, i);
            }
        }
        return places;
    }
}
