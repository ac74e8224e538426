using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Scene;

/// <summary>
/// Everything there is to a shot: its time, its picture and its scene. Immutable; what an edit does not touch is the same reference afterwards.
/// </summary>
/// <remarks>Longer than most: all that can be asked of a shot by its names is asked here.</remarks>
public sealed record Shot
{
    /// <summary>The version of the shot format that is written; the newest that is read.</summary>
    public const int CurrentVersion = 1;

    /// <summary>The owner name of the world's channels.</summary>
    public const string WorldOwner = "world";

    /// <summary>Of the format; a file that does not say is of the current one.</summary>
    public int Version { get => field == 0 ? CurrentVersion : field; init; }

    /// <summary>What it is called.</summary>
    public required string Name { get; init; }

    /// <summary>Frames a second.</summary>
    public required FrameRate Rate { get; init; }

    /// <summary>The frames of the shot.</summary>
    public required FrameRange Range { get; init; }

    /// <summary>The frames that play; null is the whole range.</summary>
    public FrameRange? PlayRange { get; init; }

    /// <summary>How large its pictures are, in pixels.</summary>
    public required PictureSize Size { get; init; }

    /// <summary>The id of the camera that renders; null is the first one.</summary>
    public string? Camera { get; init; }

    /// <summary>A picture of the whole sky and ground around, in the place of a painted sky: twice as wide as high, its middle towards −Z; null for none.</summary>
    public SkyPicture? SkyPicture { get; init; }

    /// <summary>What the camera sees where nothing is.</summary>
    public Background Background { get; init; }

    /// <summary>How new keys are; null is a Bézier segment with auto handles.</summary>
    public KeyStyle? NewKeys { get; init; }

    /// <summary>Marks on the ruler.</summary>
    public ImmutableArray<Marker> Markers { get => field.IsDefault ? [] : field; init; }

    /// <summary>Objects that are kept together under a name.</summary>
    public ImmutableArray<ObjectSet> Sets { get => field.IsDefault ? [] : field; init; }

    /// <summary>What the checks find and what is meant so.</summary>
    public ImmutableArray<MeantFinding> Meant { get => field.IsDefault ? [] : field; init; }

    /// <summary>The channels of sky and exposure that somebody has set.</summary>
    public ImmutableSortedDictionary<string, Channel>? World { get; init; }

    /// <summary>In the order in which siblings are listed. A parent may come after its children.</summary>
    public required ImmutableArray<Node> Nodes { get; init; }

    /// <summary>The surfaces that its objects can have.</summary>
    public ImmutableArray<Material> Materials { get => field.IsDefault ? [] : field; init; }

    /// <summary>Animation laid over that of the channels, the lowest first.</summary>
    public ImmutableArray<Layer> Layers { get => field.IsDefault ? [] : field; init; }

    /// <summary>What is heard with it.</summary>
    public ImmutableArray<Sound> Sounds { get => field.IsDefault ? [] : field; init; }

    /// <summary>An empty shot: two seconds of film at 1280×720.</summary>
    public static Shot Empty(string name) => new()
    {
        Name = name,
        Rate = FrameRate.Default,
        Range = new(0, 47),
        Size = new(1280, 720),
        Nodes = [],
    };

    // Copied along with the shot; it says itself whether it still fits, and counts for nothing when shots are compared.
    private OwnerIndex _index = OwnerIndex.None;

    private OwnerIndex Index => _index.Fits(Nodes, Materials) ? _index : _index = OwnerIndex.Of(Nodes, Materials, _index);

    /// <summary>The node of an id, or null.</summary>
    public Node? FindNode(string? id) => id is not null && Index.NodePlace(id) is >= 0 and var i ? Nodes[i] : null;

    /// <summary>The material of an id, or null.</summary>
    public Material? FindMaterial(string? id) => id is not null && Index.MaterialPlace(id) is >= 0 and var i ? Materials[i] : null;

    /// <summary>The layer of an id, or null.</summary>
    public Layer? FindLayer(string? id)
    {
        foreach (var layer in Layers)
        {
            if (layer?.Id == id)
            {
                return layer;
            }
        }
        return null;
    }

    /// <summary>The sound of an id, or null.</summary>
    public Sound? FindSound(string? id)
    {
        foreach (var sound in Sounds)
        {
            if (sound?.Id == id)
            {
                return sound;
            }
        }
        return null;
    }

    /// <summary>The layers and the sounds.</summary>
    internal IEnumerable<IChannelOwner> OtherOwners => Layers.Concat<IChannelOwner>(Sounds);

    internal IChannelOwner? FindOther(string? id) => FindLayer(id) ?? (IChannelOwner?)FindSound(id);

    /// <summary>The same shot with other channels on a layer or a sound.</summary>
    internal Shot WithOther(IChannelOwner owner, ImmutableSortedDictionary<string, Channel> channels) => owner switch
    {
        Layer layer => this with { Layers = Layers.Replace(layer, layer with { Channels = channels }) },
        Sound sound => this with { Sounds = Sounds.Replace(sound, sound with { Channels = channels }) },
        _ => throw new ArgumentException("This owner is no layer and no sound.", nameof(owner)),
    };

    /// <exception cref="Refusal">There is no such layer.</exception>
    public Layer Layer(string id) => FindLayer(id) ?? throw new Refusal($"There is no layer “{id}” in the shot: it may have been removed.");

    /// <exception cref="Refusal">There is no such material.</exception>
    public Material Material(string id) => FindMaterial(id) ?? throw new Refusal($"There is no material “{id}” in the shot: it may have been removed.");

    /// <exception cref="Refusal">There is no such node.</exception>
    public Node Node(string? id) => FindNode(id) ?? throw new Refusal($"There is no object “{id}” in the shot: it may have been removed.");

    /// <summary>The camera that renders: the one of this name or id, else the shot's, else the first.</summary>
    /// <returns>Null when the shot has no camera.</returns>
    /// <exception cref="Refusal">A camera is asked for by name and there is none.</exception>
    public CameraNode? RenderCamera(string? name = null)
    {
        var cameras = Nodes.OfType<CameraNode>();
        if (name is not null)
        {
            return cameras.FirstOrDefault(c => c.Id == name) ?? cameras.FirstOrDefault(c => c.Name == name)
                ?? throw new Refusal($"There is no camera “{name}” in the shot: choose one of {string.Join(", ", cameras.Select(c => c.Name).DefaultIfEmpty("(none)"))}.");
        }
        return cameras.FirstOrDefault(c => c.Id == Camera) ?? cameras.FirstOrDefault();
    }

    /// <summary>Names from the root down, as <c>/harbour/buoy</c>.</summary>
    public string PathOf(Node node)
    {
        // Put together once: in a long chain, name by name would take its square.
        var names = new List<string> { node.Name };
        for (var parent = FindNode(node.Parent); parent is not null; parent = FindNode(parent.Parent))
        {
            names.Add(parent.Name);
        }
        names.Reverse();
        return "/" + string.Join('/', names);
    }

    /// <summary>What channels an owner has.</summary>
    /// <exception cref="Refusal">There is no such owner.</exception>
    public ChannelList ChannelsOf(string owner) =>
        owner == WorldOwner ? ChannelCatalog.World
        : FindNode(owner) is { } node ? ChannelCatalog.For(node)
        : FindMaterial(owner) is { } material ? ChannelCatalog.For(material)
        : FindOther(owner) is { } other ? other.List
        : throw new Refusal($"There is no object or material “{owner}” in the shot: it may have been removed.");

    /// <exception cref="Refusal">There is no such owner, or it has no such channel.</exception>
    public ChannelSpec Spec(ChannelAddress address) =>
        ChannelsOf(address.Owner).Find(address.Path) ?? SpecInLayer(address)
        ?? throw new Refusal($"“{address.Owner}” has no channel “{address.Path}”: see its channels in the values panel.");

    /// <summary>What a channel is in a layer; null where the address names none, or no channel.</summary>
    private ChannelSpec? SpecInLayer(ChannelAddress address)
    {
        if (address.Layer is not { } id)
        {
            return null;
        }
        if (id.Contains(Scene.Layer.Mark, StringComparison.Ordinal) || FindLayer(address.Owner) is not null)
        {
            throw new Refusal($"The channel “{address}” would be a layer of a layer: put its keys into one of them.");
        }
        var layer = Layer(id);
        return ChannelsOf(address.Owner).Find(address.Base.Path) is not { } spec ? null
            : layer.Mode == LayerMode.Override ? spec with { Path = address.Path }
            : spec with { Path = address.Path, Default = Scene.Layer.Nothing(spec.Path), Min = null, Max = null, Stepped = false, Whole = false };
    }

    /// <summary>The channel, or its default when nobody has set it.</summary>
    /// <exception cref="Refusal">As <see cref="Spec"/>.</exception>
    public Channel Channel(ChannelAddress address) =>
        SetChannels(address.Owner)?.GetValueOrDefault(address.Path) ?? Followed(address) ?? new Channel(Standard(address));

    /// <summary>The channel that stands for one that has not been set, on a node that follows another.</summary>
    private Channel? Followed(ChannelAddress address)
    {
        Spec(address);
        var node = FindNode(address.Owner);
        for (var depth = 0; node?.Follows is { } leader && depth < MostFollowers; depth++)
        {
            node = FindNode(leader);
            if (node?.Channels?.GetValueOrDefault(address.Path) is { } channel)
            {
                return channel with { Locked = false };
            }
        }
        return null;
    }

    /// <summary>How many nodes can follow each other in a row.</summary>
    internal const int MostFollowers = 16;

    /// <summary>The channels that a node has, its own and those that it follows.</summary>
    internal ImmutableSortedDictionary<string, Channel>? ChannelsWithFollowed(Node node) => ChannelsWithFollowed(node, FindNode);

    /// <param name="find">The node of an id, or null.</param>
    internal static ImmutableSortedDictionary<string, Channel>? ChannelsWithFollowed(Node node, Func<string?, Node?> find)
    {
        if (node.Follows is null)
        {
            return node.Channels;
        }
        var list = ChannelCatalog.For(node);
        var all = (node.Channels ?? ImmutableSortedDictionary<string, Channel>.Empty).ToBuilder();
        var leader = node;
        for (var depth = 0; leader.Follows is not null && depth < MostFollowers && find(leader.Follows) is { } next; depth++)
        {
            leader = next;
            foreach (var (path, channel) in leader.Channels ?? ImmutableSortedDictionary<string, Channel>.Empty)
            {
                if (!all.ContainsKey(path) && list.Has(path))
                {
                    all.Add(path, channel);
                }
            }
        }
        return all.ToImmutable();
    }

    /// <summary>What a channel is until somebody sets it.</summary>
    /// <exception cref="Refusal">As <see cref="Spec"/>.</exception>
    internal double Standard(ChannelAddress address)
    {
        Spec(address);
        if (address.Layer is { } layer)
        {
            return Layer(layer).Mode == LayerMode.Add ? Scene.Layer.Nothing(address.Base.Path) : Channel(address.Base).Value;
        }
        var list = ChannelsOf(address.Owner);
        return ChannelCatalog.Standard(FindNode(address.Owner), list, list.IndexOf(address.Path));
    }

    /// <summary>The channels that somebody has set on an owner.</summary>
    public ImmutableSortedDictionary<string, Channel>? SetChannels(string owner) =>
        owner == WorldOwner ? World : FindNode(owner)?.Channels ?? FindMaterial(owner)?.Channels ?? FindOther(owner)?.Channels;

    /// <summary>All channels that somebody has set, in document order.</summary>
    public IEnumerable<(ChannelAddress Address, Channel Channel)> AllSetChannels()
    {
        foreach (var (path, channel) in World ?? Empty())
        {
            yield return (new(WorldOwner, path), channel);
        }
        foreach (var node in Nodes)
        {
            foreach (var (path, channel) in node.Channels ?? Empty())
            {
                yield return (new(node.Id, path), channel);
            }
        }
        foreach (var material in Materials)
        {
            foreach (var (path, channel) in material.Channels ?? Empty())
            {
                yield return (new(material.Id, path), channel);
            }
        }
        foreach (var other in OtherOwners)
        {
            foreach (var (path, channel) in other.Channels ?? Empty())
            {
                yield return (new(other.Id, path), channel);
            }
        }
        static ImmutableSortedDictionary<string, Channel> Empty() => ImmutableSortedDictionary<string, Channel>.Empty;
    }

    /// <summary>The same shot with one channel replaced. For several at once see <see cref="ShotBuilder"/>.</summary>
    /// <exception cref="Refusal">As <see cref="Spec"/>.</exception>
    public Shot With(ChannelAddress address, Channel channel)
    {
        var builder = new ShotBuilder(this);
        builder.Set(address, channel);
        return builder.ToShot();
    }

    /// <summary>The same shot with the node of this id replaced.</summary>
    public Shot With(Node node) => WithNodeAt(IndexOfNode(node.Id), node);

    /// <summary>The same shot with others in the place of nodes of the same ids; the list is written once.</summary>
    /// <exception cref="Refusal">There is no such node.</exception>
    public Shot WithAll(IEnumerable<Node> nodes)
    {
        ImmutableArray<Node>.Builder? list = null;
        foreach (var node in nodes)
        {
            var place = IndexOfNode(node.Id);
            if (!ReferenceEquals(node, Nodes[place]))
            {
                (list ??= Nodes.ToBuilder())[place] = node;
            }
        }
        return list is null ? this : this with { Nodes = list.MoveToImmutable() };
    }

    /// <summary>The same shot with another node of the same id at a place in the list.</summary>
    internal Shot WithNodeAt(int place, Node node)
    {
        var index = Index;
        var nodes = Nodes.SetItem(place, node);
        return this with { Nodes = nodes, _index = index.Replaced(nodes, place) };
    }

    /// <summary>The places at which a shot with as many nodes has others, rising.</summary>
    internal IEnumerable<int> NodesOtherThan(Shot before)
    {
        if (_index.Fits(Nodes, Materials) && before._index.Fits(before.Nodes, before.Materials) && _index.KnowsDifference(before._index, out var one, out var other))
        {
            return one == other ? [one] : one < other ? [one, other] : [other, one];
        }
        var places = new List<int>();
        var a = before.Nodes.AsSpan();
        var b = Nodes.AsSpan();
        for (var i = 0; i < b.Length; i++)
        {
            if (!ReferenceEquals(a[i], b[i]))
            {
                places.Add(i);
            }
        }
        return places;
    }

    /// <summary>The place of a node in the list, or −1.</summary>
    public int IndexOfNode(string id) => Index.NodePlace(id);

    /// <summary>The place of a material in the list, or −1.</summary>
    public int IndexOfMaterial(string id) => Index.MaterialPlace(id);

    /// <summary>The nodes that hang under one, in the order of the list; null for those under none.</summary>
    public IEnumerable<Node> Children(string? id) => Index.Children(id).Select(i => Nodes[i]);

    /// <summary>The nodes and all that hangs below them.</summary>
    public HashSet<string> Descendants(IEnumerable<string> ids)
    {
        var found = new HashSet<string>(ids);
        var open = new Stack<string>(found);
        while (open.TryPop(out var id))
        {
            foreach (var child in Index.Children(id))
            {
                if (found.Add(Nodes[child].Id))
                {
                    open.Push(Nodes[child].Id);
                }
            }
        }
        return found;
    }

    /// <summary>The frames that play.</summary>
    [JsonIgnore]
    public FrameRange Playing => PlayRange ?? Range;
}

/// <summary>Width and height in pixels.</summary>
public readonly record struct PictureSize(int Width, int Height)
{
    /// <summary>The longest side that is rendered.</summary>
    public const int MostPixels = 16384;

    /// <summary>Width by height.</summary>
    [JsonIgnore]
    public double Aspect => (double)Width / Height;

    /// <exception cref="Refusal">A side is below 1 or above <see cref="MostPixels"/>.</exception>
    public void Validate()
    {
        if (Width < 1 || Height < 1 || Width > MostPixels || Height > MostPixels)
        {
            throw new Refusal($"A picture of {Width}×{Height} pixels cannot be rendered: each side must be between 1 and {MostPixels}.");
        }
    }

    /// <summary>Reads <c>640x360</c>.</summary>
    /// <exception cref="Refusal">It is not two numbers with an x between, or out of range.</exception>
    public static PictureSize Parse(string text)
    {
        var parts = (text ?? "").Split('x', 'X', '×');
        if (parts.Length != 2 || !int.TryParse(parts[0], out var width) || !int.TryParse(parts[1], out var height))
        {
            throw new Refusal($"The size “{text}” cannot be read: write it as 640x360.");
        }
        var size = new PictureSize(width, height);
        size.Validate();
        return size;
    }

    /// <inheritdoc/>
    public override string ToString() => $"{Width}×{Height}";
}

/// <summary>A picture of all that is around: an asset beside the shot, PNG, JPEG, WebP, or Radiance .hdr.</summary>
/// <param name="Asset">The SHA-256 of its bytes, in lower-case hexadecimal digits.</param>
/// <param name="Name">For people: the file that it came from.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
public sealed record SkyPicture(string Asset, string Name, int Width, int Height)
{
    /// <summary>As a picture like any.</summary>
    public PictureSource ToSource() => new(Asset, Name, Width, Height);
}

/// <summary>What a camera sees where nothing is; what lights the scene and is mirrored is the sky all the same.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<Background>))]
public enum Background
{
    /// <summary>The sky.</summary>
    Sky,

    /// <summary>The channels <c>background.*</c>.</summary>
    Color,

    /// <summary>Nothing: pictures have an opacity there.</summary>
    Transparent,
}
