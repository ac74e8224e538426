using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Bradymotus.Core.Scene;

/// <summary>
/// Animation laid over what lies below it. Its curves stand with the channels that they are for, under the path of the channel with <c>@</c>
/// and the layer's id after it: <c>buoy/transform.translate.y@breath</c>. How far it counts is its channel <c>weight</c>.
/// </summary>
/// <param name="Id">Unique in the shot among nodes, materials and layers; never changes.</param>
/// <param name="Name">For people.</param>
/// <param name="Mode">How it is laid over the rest.</param>
/// <param name="Muted">It has no say.</param>
/// <param name="Solo">Of the layers only those that are solo have a say.</param>
/// <param name="Locked">Nothing in it can be changed.</param>
/// <param name="Channels">Its own channels that somebody has set.</param>
public sealed record Layer(
    string Id, string Name, LayerMode Mode = LayerMode.Add, bool Muted = false, bool Solo = false, bool Locked = false,
    ImmutableSortedDictionary<string, Channel>? Channels = null) : IChannelOwner
{
    /// <summary>The most layers of a shot.</summary>
    public const int Most = 64;

    /// <summary>The path of the channel that says how far it counts, 0 to 1.</summary>
    public const string Weight = "weight";

    /// <summary>What stands between the path of a channel and the id of a layer.</summary>
    internal const char Mark = '@';

    ChannelList IChannelOwner.List => ChannelCatalog.Layer;

    /// <summary>What a channel of it is until somebody sets it: nothing, where it adds.</summary>
    /// <param name="path">The path of the channel below, without the layer.</param>
    internal static double Nothing(string path) => path == "transform.quaternion.w" ? 1 : 0;
}

/// <summary>How a layer is laid over what is below it.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<LayerMode>))]
public enum LayerMode
{
    /// <summary>Its numbers times its weight come on top. A rotation turns what is below in its own axes.</summary>
    Add,

    /// <summary>Its numbers take the place of those below, as far as its weight goes.</summary>
    Override,
}
