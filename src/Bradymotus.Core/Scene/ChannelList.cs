using System.Collections;
using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>The channels of one kind of owner, in the order in which they are shown, and found by their paths. Owners of one kind share one list.</summary>
public sealed class ChannelList : IReadOnlyList<ChannelSpec>
{
    private readonly Dictionary<string, int> _places;

    internal ChannelList(ImmutableArray<ChannelSpec> specs)
    {
        Specs = specs;
        _places = new(specs.Length, StringComparer.Ordinal);
        for (var i = 0; i < specs.Length; i++)
        {
            _places.Add(specs[i].Path, i);
        }
        PlaceChannels = IndexOf("visible.renders") + 1;
        ShapeChannels = specs.Count(s => s.Path.StartsWith(ShapePrefix, StringComparison.Ordinal));
        HasQuaternion = IndexOf("transform.quaternion.x") >= 0;
    }

    /// <summary>How many channels, from the first, say where a node stands and whether it is seen; 0 for what is no node.</summary>
    internal int PlaceChannels { get; }

    /// <summary>How the paths of the numbers of a shape begin.</summary>
    internal const string ShapePrefix = "shape.";

    /// <summary>How many channels, after those of its place, are numbers of a shape.</summary>
    internal int ShapeChannels { get; }

    /// <summary>The rotation is a quaternion.</summary>
    internal bool HasQuaternion { get; }

    /// <summary>The channels, in the order in which they are shown.</summary>
    public ImmutableArray<ChannelSpec> Specs { get; }

    /// <summary>How many there are.</summary>
    public int Count => Specs.Length;

    /// <summary>The channel at a place, from 0.</summary>
    public ChannelSpec this[int index] => Specs[index];

    /// <summary>The place of a channel, or −1.</summary>
    public int IndexOf(string path) => path is not null && _places.TryGetValue(path, out var i) ? i : -1;

    /// <summary>Whether there is the channel of a path, which may be in a layer.</summary>
    internal bool Has(string path) => IndexOf(path) >= 0 || (path?.IndexOf(Layer.Mark, StringComparison.Ordinal) is >= 0 and var at && IndexOf(path[..at]) >= 0);

    /// <summary>The channel of a path, or null.</summary>
    public ChannelSpec? Find(string path) => IndexOf(path) is >= 0 and var i ? Specs[i] : null;

    /// <inheritdoc/>
    public IEnumerator<ChannelSpec> GetEnumerator() => ((IEnumerable<ChannelSpec>)Specs).GetEnumerator();

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();
}
