using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Scene;

/// <summary>What every shot keeps to. Checked whole when a shot comes in from outside; edits keep to it one by one.</summary>
public static class ShotRules
{
    /// <summary>The most nodes in a shot.</summary>
    public const int MostNodes = 20_000;

    /// <exception cref="Refusal">With the first thing that is wrong, and where.</exception>
    public static void Validate(Shot shot)
    {
        if (shot.Version > Shot.CurrentVersion)
        {
            throw new Refusal($"This shot was written by a newer version (format {shot.Version}; this program reads up to {Shot.CurrentVersion}): update the program.");
        }
        if (shot.Version < 1)
        {
            throw new Refusal($"The format version {shot.Version} is not known: expected {Shot.CurrentVersion}.");
        }
        ValidateName(shot.Name, "shot");
        shot.Rate.Validate();
        shot.Range.Validate();
        shot.PlayRange?.Validate("play range");
        shot.Size.Validate();
        if (shot.Nodes.IsDefault)
        {
            throw new Refusal("The shot has no list of nodes: write \"nodes\": [] where it is empty.");
        }
        if (shot.Nodes.Length > MostNodes)
        {
            throw new Refusal($"The shot has {shot.Nodes.Length} objects; at most {MostNodes} are taken.");
        }
        ValidateIds(shot);
        ValidateTree(shot);
        foreach (var node in shot.Nodes)
        {
            Validate(shot, node);
        }
        if (shot.Camera is not null && shot.FindNode(shot.Camera) is not CameraNode)
        {
            throw new Refusal($"The shot's camera “{shot.Camera}” is not among its cameras: choose one that is.");
        }
        foreach (var (address, channel) in shot.AllSetChannels())
        {
            Validate(shot, address, channel);
        }
    }

    /// <summary>Checks one node by itself, and that what it refers to is there.</summary>
    /// <exception cref="Refusal">With what is wrong.</exception>
    public static void Validate(Shot shot, Node node)
    {
        if (node is not MeshNode mesh)
        {
            return;
        }
        if (mesh.Shape is null)
        {
            throw new Refusal($"The object “{node.Name}” has no shape: give it one.");
        }
        mesh.Shape.Validate(node.Name);
        if (mesh.Material is not null && shot.FindMaterial(mesh.Material) is null)
        {
            throw new Refusal($"The object “{node.Name}” refers to the material “{mesh.Material}”, which is not in the shot.");
        }
        var seen = new HashSet<string>();
        foreach (var deformer in mesh.Deformers)
        {
            if (deformer is null || string.IsNullOrEmpty(deformer.Id) || deformer.Id.Any(c => !char.IsAsciiLetterOrDigit(c)) || !seen.Add(deformer.Id))
            {
                throw new Refusal($"A deformer of “{node.Name}” has no id of its own: give each one of letters and digits.");
            }
        }
    }

    /// <summary>Checks that a value can stand in a channel.</summary>
    /// <exception cref="Refusal">The number is not finite or absurdly large, or there is no such channel.</exception>
    public static void Validate(Shot shot, ChannelAddress address, Channel channel)
    {
        shot.Spec(address);
        if (channel is null)
        {
            throw new Refusal($"The channel {address} is empty: give it a value.");
        }
        ValidateNumber(channel.Value, address);
        foreach (var key in channel.Curve?.Keys ?? [])
        {
            ValidateNumber(key.Value, address);
        }
    }

    /// <summary>Checks a name for people.</summary>
    /// <exception cref="Refusal">It is empty, too long, or holds a slash or a control character.</exception>
    public static void ValidateName(string? name, string what)
    {
        if (string.IsNullOrWhiteSpace(name))
        {
            throw new Refusal($"The name of the {what} is empty: give it one.");
        }
        if (name.Length > 200)
        {
            throw new Refusal($"The name of the {what} is longer than 200 characters: shorten it.");
        }
        if (name.Any(c => c == '/' || char.IsControl(c)))
        {
            throw new Refusal($"The name “{name}” holds a slash or a control character: use other characters.");
        }
    }

    private static void ValidateNumber(double value, ChannelAddress address)
    {
        if (!double.IsFinite(value) || Math.Abs(value) > 1e12)
        {
            throw new Refusal($"The channel {address} cannot be {CurveRules.Number(value)}: give it a number up to 10¹².");
        }
    }

    private static void ValidateIds(Shot shot)
    {
        var seen = new HashSet<string> { Shot.WorldOwner };
        foreach (var (id, name) in shot.Nodes.Select(n => (n?.Id, n?.Name)).Concat(shot.Materials.Select(m => (m?.Id, m?.Name))))
        {
            ValidateId(id);
            if (!seen.Add(id!))
            {
                throw new Refusal($"The id “{id}” is used twice, or is reserved: give each object and material an id of its own.");
            }
            ValidateName(name, $"object or material {id}");
        }
    }

    /// <summary>Checks an id.</summary>
    /// <exception cref="Refusal">It is empty, too long, or holds characters that an address cannot.</exception>
    public static void ValidateId(string? id)
    {
        if (string.IsNullOrEmpty(id) || id.Length > 100 || id.Any(c => !(char.IsAsciiLetterOrDigit(c) || c is '-' or '_')))
        {
            throw new Refusal($"The id “{id}” cannot be used: ids have up to 100 letters, digits, - and _.");
        }
    }

    private static void ValidateTree(Shot shot)
    {
        var byId = shot.Nodes.ToDictionary(n => n.Id);
        var siblings = new HashSet<(string?, string)>();
        var safe = new HashSet<string>();
        foreach (var node in shot.Nodes)
        {
            if (!siblings.Add((node.Parent, node.Name)))
            {
                throw new Refusal($"Two objects named “{node.Name}” hang under the same parent: rename one.");
            }
            var trail = new List<string>();
            for (var at = node; !safe.Contains(at.Id);)
            {
                if (trail.Contains(at.Id))
                {
                    throw new Refusal($"The parents go round in a circle: {string.Join(" → ", trail.SkipWhile(t => t != at.Id).Append(at.Id))}. Hang one of them elsewhere.");
                }
                trail.Add(at.Id);
                if (at.Parent is null)
                {
                    break;
                }
                if (!byId.TryGetValue(at.Parent, out var parent))
                {
                    throw new Refusal($"The object “{at.Name}” hangs under “{at.Parent}”, which is not in the shot.");
                }
                at = parent;
            }
            safe.UnionWith(trail);
        }
    }
}
