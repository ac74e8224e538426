using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Scene;

/// <summary>What every shot keeps to. Checked whole when a shot comes in from outside; edits keep to it one by one.</summary>
/// <remarks>Longer than most: its rules refer to each other, and a quick check must ask the very same ones as the whole.</remarks>
public static class ShotRules
{
    /// <summary>The most nodes in a shot.</summary>
    public const int MostNodes = 20_000;

    /// <summary>The most materials in a shot.</summary>
    public const int MostMaterials = 20_000;

    /// <summary>The longest name, in UTF-16 units.</summary>
    public const int MostNameLength = 200;

    /// <summary>The longest note of a marker.</summary>
    public const int MostNoteLength = 4000;

    /// <summary>The most markers of a shot.</summary>
    public const int MostMarkers = 2000;

    /// <summary>The most keys of all curves together.</summary>
    public const int MostKeys = 2_000_000;

    /// <summary>The most vertices of all shapes together. Equal shapes that nothing bends count once.</summary>
    public const int MostVertices = 20_000_000;

    /// <exception cref="Refusal">With the first thing that is wrong, and where.</exception>
    public static void Validate(Shot shot) => ValidateChange(null, shot);

    /// <summary>Checks what is different from a state that keeps to the rules.</summary>
    /// <param name="before">The state before; null checks everything.</param>
    /// <exception cref="Refusal">With the first thing that is wrong, and where.</exception>
    public static void ValidateChange(Shot? before, Shot shot)
    {
        if (ReferenceEquals(before, shot))
        {
            return;
        }
        ValidateHead(shot);
        var changed = ChangedNodes(before, shot, out var isTree);
        var areMaterials = before is null || before.Materials != shot.Materials;
        if (isTree || (areMaterials && !HasSameIds(before!.Materials, shot.Materials)))
        {
            ValidateIds(shot);
        }
        if (isTree)
        {
            ValidateTree(shot);
            foreach (var node in shot.Nodes)
            {
                ValidateReferences(shot, node);
                if (node is MeshNode mesh)
                {
                    ValidateJoints(shot, mesh);
                }
            }
        }
        if (isTree || changed.Exists(n => n is InstanceNode))
        {
            ValidateInstances(shot);
        }
        if (areMaterials)
        {
            foreach (var node in shot.Nodes)
            {
                ValidateMaterial(shot, node);
            }
        }
        var areShapes = before is null;
        var areCurves = before is null;
        if (!isTree)
        {
            ValidateFollowers(before!, shot, changed);
        }
        foreach (var node in changed)
        {
            var old = before?.FindNode(node.Id);
            ValidateNode(shot, node);
            areShapes |= (old as MeshNode)?.Shape != (node as MeshNode)?.Shape || (old as MeshNode)?.Deformers != (node as MeshNode)?.Deformers || AreShapeNumbersOther(shot, old, node);
            areCurves |= ValidateChannels(shot, node.Id, ChannelCatalog.For(node), old is null || ChannelCatalog.For(old) != ChannelCatalog.For(node) ? null : old.Channels, node.Channels);
        }
        if (areMaterials)
        {
            foreach (var material in shot.Materials)
            {
                var old = before?.FindMaterial(material.Id);
                if (!ReferenceEquals(old, material))
                {
                    ValidateName(material.Name, $"material {material.Id}");
                    ValidateMaps(material);
                    areCurves |= ValidateChannels(shot, material.Id, ChannelCatalog.For(material), old is null || old.Maps != material.Maps ? null : old.Channels, material.Channels);
                }
            }
        }
        if (before is null ? !shot.Layers.IsEmpty : before.Layers != shot.Layers)
        {
            areCurves |= ValidateLayers(before, shot);
        }
        if (before is null ? !shot.Sounds.IsEmpty : before.Sounds != shot.Sounds)
        {
            areCurves |= ValidateSounds(before, shot);
        }
        areCurves |= ValidateChannels(shot, Shot.WorldOwner, ChannelCatalog.World, before?.World, shot.World);
        if (areShapes)
        {
            ValidateVertices(shot);
        }
        if (areCurves)
        {
            ValidateKeys(shot);
        }
        if (shot.Camera is not null && shot.FindNode(shot.Camera) is not CameraNode)
        {
            throw new Refusal($"The shot's camera “{shot.Camera}” is not among its cameras: choose one that is.");
        }
    }

    private static void ValidateHead(Shot shot)
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
        shot.PlayRange?.Validate("playback range");
        shot.Size.Validate();
        if (shot.Markers.Length > MostMarkers)
        {
            throw new Refusal($"A shot holds {MostMarkers} markers at most: this one would have {shot.Markers.Length}.");
        }
        if (shot.Sets.Length > ObjectSet.Most)
        {
            throw new Refusal($"A shot holds {ObjectSet.Most} sets of objects at most: this one would have {shot.Sets.Length}.");
        }
        var sets = new HashSet<string>();
        foreach (var set in shot.Sets)
        {
            (set ?? throw new Refusal("A set of objects is empty: take it out.")).Validate();
            if (!sets.Add(set.Id))
            {
                throw new Refusal($"The set “{set.Name}” has the id of another: give each its own.");
            }
        }
        if (shot.Meant.Length > MeantFinding.Most)
        {
            throw new Refusal($"A shot holds {MeantFinding.Most} findings that are meant at most: this one would have {shot.Meant.Length}.");
        }
        foreach (var meant in shot.Meant)
        {
            (meant ?? throw new Refusal("A finding that is meant is empty: take it out.")).Validate();
        }
        var markers = new HashSet<string>();
        foreach (var marker in shot.Markers)
        {
            if (marker is null || string.IsNullOrEmpty(marker.Id) || marker.Id.Length > MostNameLength || !markers.Add(marker.Id))
            {
                throw new Refusal("A marker has no id, or the id of another: give each its own.");
            }
            if (!(Math.Abs(marker.Frame) <= CurveRules.MostFrame) || marker.Name is null || marker.Name.Length > MostNameLength || marker.Note is { Length: > MostNoteLength })
            {
                throw new Refusal($"The marker “{(marker.Name?.Length > 40 ? marker.Name[..40] : marker.Name)}” cannot be put there: give it a frame up to {CurveRules.Number(CurveRules.MostFrame)}, a name of {MostNameLength} letters at most and a note of {MostNoteLength}.");
            }
        }
        if (shot.NewKeys is { } style)
        {
            // As a key that is made in this way has to be.
            _ = new Curve([new Key(0, 0, style.Segment, style.Handle, style.Handle)]);
        }
        if (shot.SkyPicture is { } sky)
        {
            ValidatePicture(sky.ToSource(), "the sky");
        }
        if (!Enum.IsDefined(shot.Background))
        {
            throw new Refusal($"The background {shot.Background} is not known: use sky, color or transparent.");
        }
        if (shot.Nodes.IsDefault)
        {
            throw new Refusal("The shot has no list of nodes: write \"nodes\": [] where it is empty.");
        }
        if (shot.Nodes.Length > MostNodes)
        {
            throw new Refusal($"The shot has {shot.Nodes.Length} objects; at most {MostNodes} are taken.");
        }
        if (shot.Materials.Length > MostMaterials)
        {
            throw new Refusal($"The shot has {shot.Materials.Length} materials; at most {MostMaterials} are taken.");
        }
    }

    /// <summary>The nodes that are not the same reference as before.</summary>
    /// <param name="isTree">Whether the tree is another: nodes came or went, or ids, names or parents changed.</param>
    private static List<Node> ChangedNodes(Shot? before, Shot shot, out bool isTree)
    {
        var changed = new List<Node>();
        isTree = before is null;
        if (before is null)
        {
            changed.AddRange(shot.Nodes);
            return changed;
        }
        if (before.Nodes == shot.Nodes)
        {
            return changed;
        }
        var old = before.Nodes.AsSpan();
        var now = shot.Nodes.AsSpan();
        isTree = old.Length != now.Length;
        if (!isTree)
        {
            foreach (var i in shot.NodesOtherThan(before))
            {
                isTree |= now[i] is not { } node || old[i].Id != node.Id || old[i].Name != node.Name || old[i].Parent != node.Parent;
                changed.Add(now[i]);
            }
        }
        if (isTree)
        {
            changed.Clear();
            foreach (var node in now)
            {
                if (node is null || !ReferenceEquals(before.FindNode(node.Id), node))
                {
                    changed.Add(node!);
                }
            }
        }
        return changed;
    }

    /// <summary>Checks one node by itself, and that what it refers to is there.</summary>
    private static void ValidateNode(Shot shot, Node node)
    {
        if (node.Offset is { } offset && !offset.IsWithin(CurveRules.MostValue))
        {
            throw new Refusal($"The offset of “{node.Name}” from its parent holds numbers beyond 10¹², or none: give the parent a scale that is not so close to 0.");
        }
        if (!Enum.IsDefined(node.RotationOrder))
        {
            throw new Refusal($"The rotation order of “{node.Name}” is not known: use one of {string.Join(", ", Enum.GetNames<Numerics.RotationOrder>()).ToLowerInvariant()}.");
        }
        ValidateReferences(shot, node);
        if (node is CameraNode camera && !(Enum.IsDefined(camera.Projection) && Enum.IsDefined(camera.Lens)))
        {
            throw new Refusal($"The projection or the lens of the camera “{node.Name}” is not known: use perspective or orthographic, and angle or focal.");
        }
        if (node is LampNode lamp && !Enum.IsDefined(lamp.Form))
        {
            throw new Refusal($"The form of the lamp “{node.Name}” is not known: use point, spot, rectangle or disc.");
        }
        if (node is ControlNode control && !Enum.IsDefined(control.Form))
        {
            throw new Refusal($"The form of the control “{node.Name}” is not known: use ring, box, arrow or ball.");
        }
        if (node is not MeshNode mesh)
        {
            return;
        }
        if (mesh.Shape is null)
        {
            throw new Refusal($"The object “{node.Name}” has no shape: give it one.");
        }
        mesh.Shape.Validate(node.Name);
        ValidateMaterial(shot, mesh);
        ValidateTraced(mesh);
        ValidateDeformers(mesh);
        ValidateJoints(shot, mesh);
    }

    /// <summary>Each deformer has an id of its own, so that its channels have names of their own.</summary>
    internal static void ValidateDeformers(MeshNode mesh)
    {
        var seen = new HashSet<string>();
        foreach (var deformer in mesh.Deformers)
        {
            if (deformer is null || string.IsNullOrEmpty(deformer.Id) || deformer.Id.Any(c => !char.IsAsciiLetterOrDigit(c)) || !seen.Add(deformer.Id))
            {
                throw new Refusal($"A deformer of “{mesh.Name}” has no id of its own: give each one of letters and digits.");
            }
            deformer.Validate(mesh.Name);
        }
        if (mesh.Deformers.OfType<MorphDeformer>().Count() > 1 || mesh.Deformers.OfType<SkinDeformer>().Count() > 1)
        {
            throw new Refusal($"“{mesh.Name}” has two skins, or two sets of morph targets: leave one.");
        }
    }

    private static void ValidateTraced(MeshNode mesh)
    {
        if (mesh.Traced.Length > MeshNode.MostTraced)
        {
            throw new Refusal($"{mesh.Traced.Length} points of “{mesh.Name}” would be traced, and {MeshNode.MostTraced} is the most: leave some out.");
        }
        if (mesh.Traced.Any(v => v < 0))
        {
            throw new Refusal($"A traced point of “{mesh.Name}” is a negative number: count the points of the mesh from 0.");
        }
        if (mesh.Traced.Distinct().Count() < mesh.Traced.Length)
        {
            throw new Refusal($"A point of “{mesh.Name}” is traced twice: once is enough.");
        }
    }

    /// <summary>A node that follows another now takes all along that follow it: those below it were not touched, and may be too many in a row.</summary>
    private static void ValidateFollowers(Shot before, Shot shot, List<Node> changed)
    {
        if (!changed.Exists(n => n.Follows is not null && n.Follows != before.FindNode(n.Id)?.Follows))
        {
            return;
        }
        foreach (var node in shot.Nodes.Where(n => n.Follows is not null))
        {
            ValidateReferences(shot, node);
        }
    }

    /// <summary>What a node refers to is there, and none draws or follows itself.</summary>
    private static void ValidateReferences(Shot shot, Node node)
    {
        if (node.Follows is { } leader)
        {
            var depth = 0;
            for (var next = shot.FindNode(leader) ?? throw new Refusal($"“{node.Name}” follows the channels of “{leader}”, which would not be in the shot: give it channels of its own first."); next?.Follows is { } further; next = shot.FindNode(further))
            {
                if (next.Id == node.Id || ++depth > Shot.MostFollowers)
                {
                    throw new Refusal($"“{node.Name}” would follow itself, or more than {Shot.MostFollowers} others in a row: let it follow another.");
                }
            }
            if (leader == node.Id)
            {
                throw new Refusal($"“{node.Name}” would follow itself: let it follow another.");
            }
        }
        if (node is RepeatNode { Step: { } step } && shot.FindNode(step) is null)
        {
            throw new Refusal($"The repeater “{node.Name}” takes its step from “{step}”, which would not be in the shot: choose another, or none.");
        }
        if (node is InstanceNode instance && shot.FindNode(instance.Of) is null)
        {
            throw new Refusal($"“{node.Name}” is an instance of “{instance.Of}”, which would not be in the shot: remove the instance too, or make it a copy first.");
        }
    }

    /// <summary>No instance is drawn within itself: neither below what it draws, nor by way of other instances.</summary>
    private static void ValidateInstances(Shot shot)
    {
        var open = new HashSet<string>();
        var safe = new HashSet<string>();
        foreach (var instance in shot.Nodes.OfType<InstanceNode>())
        {
            Visit(instance);
        }

        void Visit(InstanceNode instance)
        {
            if (safe.Contains(instance.Id))
            {
                return;
            }
            if (!open.Add(instance.Id) || open.Count > 64)
            {
                throw new Refusal($"The instance “{instance.Name}” would be drawn within itself: let it draw something that it is not part of.");
            }
            foreach (var id in shot.Descendants([instance.Of]))
            {
                if (shot.FindNode(id) is InstanceNode below)
                {
                    Visit(below);
                }
            }
            open.Remove(instance.Id);
            safe.Add(instance.Id);
        }
    }

    private static void ValidateJoints(Shot shot, MeshNode mesh)
    {
        foreach (var skin in mesh.Deformers.OfType<SkinDeformer>())
        {
            if (skin.Joints.FirstOrDefault(j => shot.FindNode(j) is null) is { } missing)
            {
                throw new Refusal($"The skin of “{mesh.Name}” hangs on the joint “{missing}”, which would not be in the shot: take the skin off first.");
            }
        }
    }

    /// <summary>Checks the maps of a material before their channels are asked for.</summary>
    internal static void ValidateMaps(Material material)
    {
        var slots = 0;
        foreach (var map in material.Maps)
        {
            if (map?.Source is null || !Enum.IsDefined(map.Slot) || !Enum.IsDefined(map.Projection))
            {
                throw new Refusal($"A map of the material “{material.Name}” says nothing: it needs a slot and a source.");
            }
            if ((slots & (1 << (int)map.Slot)) != 0)
            {
                throw new Refusal($"The material “{material.Name}” has two maps for {map.Slot.ToString().ToLowerInvariant()}: take one of them away.");
            }
            slots |= 1 << (int)map.Slot;
            if (map is { Slot: MapSlot.Normal, Source: not PictureSource })
            {
                throw new Refusal($"The normal map of “{material.Name}” has to be a picture: use a pattern as bump.");
            }
            if (map.Source is ClipSource film)
            {
                ValidatePicture(new(film.Asset, film.Name, film.Width, film.Height), $"the material “{material.Name}”");
                if (!(film.FramesPerSecond is > 0 and <= 1000 && film.Seconds is >= 0 and <= ClipSource.MostSeconds))
                {
                    throw new Refusal($"The film “{film.Name}” of the material “{material.Name}” cannot have {film.FramesPerSecond} frames a second for {film.Seconds} seconds.");
                }
            }
            if (map.Source is PictureSource picture)
            {
                ValidatePicture(picture, $"the material “{material.Name}”");
            }
        }
    }

    private static void ValidatePicture(PictureSource picture, string owner)
    {
        if (!AssetShape.IsName(picture.Asset))
        {
            throw new Refusal($"A picture of {owner} has the name “{picture.Asset}”: expected the 64 hexadecimal digits of a SHA-256.");
        }
        if (picture.Width is < 1 or > PictureSource.MostSide || picture.Height is < 1 or > PictureSource.MostSide || (long)picture.Width * picture.Height > PictureSource.MostPixels)
        {
            throw new Refusal($"The picture “{picture.Name}” of {owner} cannot be {picture.Width} × {picture.Height}: at most {PictureSource.MostSide} a side and {PictureSource.MostPixels >> 20} million pixels are taken.");
        }
        ValidateName(picture.Name, $"picture of {owner}");
    }

    private static void ValidateMaterial(Shot shot, Node node)
    {
        if (node is MeshNode mesh && mesh.PartMaterials.Append(mesh.Material).FirstOrDefault(m => !string.IsNullOrEmpty(m) && shot.FindMaterial(m) is null) is { } material)
        {
            throw new Refusal($"The object “{node.Name}” refers to the material “{material}”, which is not in the shot.");
        }
    }

    /// <summary>Checks the channels of one owner that are not the same reference as before.</summary>
    /// <returns>Whether a curve is another.</returns>
    private static bool ValidateChannels(Shot shot, string owner, ChannelList list, ImmutableSortedDictionary<string, Channel>? before, ImmutableSortedDictionary<string, Channel>? now)
    {
        var areCurves = false;
        if (now is null || ReferenceEquals(before, now))
        {
            return areCurves;
        }
        foreach (var (path, channel) in now)
        {
            Channel? old = null;
            before?.TryGetValue(path, out old);
            if (old is not null && ReferenceEquals(old, channel))
            {
                continue;
            }
            if (list.IndexOf(path) < 0)
            {
                shot.Spec(new(owner, path));
            }
            if (channel is null)
            {
                throw new Refusal($"The channel {owner}/{path} is empty: give it a value.");
            }
            if (!double.IsFinite(channel.Value) || Math.Abs(channel.Value) > CurveRules.MostValue)
            {
                throw new Refusal($"The channel {owner}/{path} cannot be {CurveRules.Number(channel.Value)}: give it a number up to 10¹².");
            }
            // The numbers of a curve were checked when it was made.
            areCurves |= !ReferenceEquals(old?.Curve, channel.Curve);
        }
        return areCurves;
    }

    private static void ValidateOtherId(Shot shot, string? id, HashSet<string> ids)
    {
        ValidateId(id);
        if (!ids.Add(id!) || id == Shot.WorldOwner || shot.FindNode(id) is not null || shot.FindMaterial(id) is not null || (shot.FindLayer(id) is not null && shot.FindSound(id) is not null))
        {
            throw new Refusal($"The id “{id}” is used twice, or is reserved: give each object, material, layer and sound an id of its own.");
        }
    }

    /// <returns>Whether a curve is another.</returns>
    private static bool ValidateSounds(Shot? before, Shot shot)
    {
        if (shot.Sounds.Length > Sound.Most)
        {
            throw new Refusal($"A shot holds {Sound.Most} sounds at most: remove some of them.");
        }
        var (areCurves, ids) = (false, new HashSet<string>());
        foreach (var sound in shot.Sounds)
        {
            ValidateOtherId(shot, sound?.Id, ids);
            ValidateName(sound!.Name, $"sound {sound.Id}");
            if (!AssetShape.IsName(sound.Asset))
            {
                throw new Refusal($"The sound “{sound.Name}” has the asset “{sound.Asset}”: expected the 64 hexadecimal digits of a SHA-256.");
            }
            if (!(sound.Seconds is > 0 and <= Sound.MostSeconds) || !(Math.Abs(sound.Start) <= CurveRules.MostFrame))
            {
                throw new Refusal($"The sound “{sound.Name}” cannot be {CurveRules.Number(sound.Seconds)} seconds long from frame {CurveRules.Number(sound.Start)}: give it a length up to {Sound.MostSeconds} seconds and a frame up to {CurveRules.Number(CurveRules.MostFrame)}.");
            }
            areCurves |= ValidateChannels(shot, sound.Id, ChannelCatalog.Sound, before?.FindSound(sound.Id)?.Channels, sound.Channels);
        }
        return areCurves;
    }

    /// <summary>Checks the layers, and that none is gone that has channels.</summary>
    /// <returns>Whether a curve is another.</returns>
    private static bool ValidateLayers(Shot? before, Shot shot)
    {
        if (shot.Layers.Length > Layer.Most)
        {
            throw new Refusal($"A shot holds {Layer.Most} layers at most: merge some of them.");
        }
        var (areCurves, ids) = (false, new HashSet<string>());
        foreach (var layer in shot.Layers)
        {
            ValidateOtherId(shot, layer?.Id, ids);
            ValidateName(layer!.Name, $"layer {layer.Id}");
            if (!Enum.IsDefined(layer.Mode))
            {
                throw new Refusal($"The mode of the layer “{layer.Name}” is not known: use add or override.");
            }
            areCurves |= ValidateChannels(shot, layer.Id, ChannelCatalog.Layer, before?.FindLayer(layer.Id)?.Channels, layer.Channels);
        }
        if (before?.Layers.Any(l => !ids.Contains(l.Id)) == true)
        {
            foreach (var (address, _) in shot.AllSetChannels())
            {
                shot.Spec(address);
            }
        }
        return areCurves;
    }

    /// <summary>Whether numbers of the shape have been set, keyed or left alone since.</summary>
    private static bool AreShapeNumbersOther(Shot shot, Node? before, Node now)
    {
        if (now is not MeshNode mesh || ReferenceEquals(before?.Channels, now.Channels))
        {
            return false;
        }
        foreach (var spec in mesh.Shape.Channels)
        {
            var path = ChannelList.ShapePrefix + spec.Path;
            bool IsOther(string at) => !ReferenceEquals(before?.Channels?.GetValueOrDefault(at), now.Channels?.GetValueOrDefault(at));
            if (IsOther(path) || shot.Layers.Any(l => IsOther($"{path}{Layer.Mark}{l.Id}")))
            {
                return true;
            }
        }
        return false;
    }

    private static void ValidateVertices(Shot shot)
    {
        long vertices = 0;
        var seen = new HashSet<Shape>();
        foreach (var mesh in shot.Nodes.OfType<MeshNode>())
        {
            var isOwn = !mesh.Deformers.IsEmpty;
            var own = mesh.Channels is null ? mesh.Shape.VertexCount : MostVerticesOf(shot, mesh, ref isOwn);
            if (isOwn || seen.Add(mesh.Shape))
            {
                vertices += own;
            }
        }
        if (vertices > MostVertices)
        {
            throw new Refusal($"The shapes of the shot would have {vertices} vertices together, more than the {MostVertices} that it can have: give them fewer divisions.");
        }
    }

    /// <summary>The vertices of a shape with the largest of the numbers that its channels go through.</summary>
    /// <param name="isOwn">Set where it has numbers that are not those of the shape itself.</param>
    private static long MostVerticesOf(Shot shot, MeshNode mesh, ref bool isOwn)
    {
        var (specs, numbers) = (mesh.Shape.Channels, mesh.Shape.Numbers.ToArray());
        for (var i = 0; i < numbers.Length; i++)
        {
            var (path, most) = (ChannelList.ShapePrefix + specs[i].Path, numbers[i]);
            var isSet = mesh.Channels!.TryGetValue(path, out var channel);
            most = isSet ? Furthest(channel!) : most;
            foreach (var layer in shot.Layers)
            {
                if (mesh.Channels.TryGetValue($"{path}{Layer.Mark}{layer.Id}", out var over))
                {
                    isSet = true;
                    most = layer.Mode == LayerMode.Add ? Math.Abs(most) + Math.Abs(Furthest(over)) : Math.Max(most, Furthest(over));
                }
            }
            if (isSet)
            {
                isOwn = true;
                numbers[i] = Math.Clamp(most, specs[i].Min ?? double.MinValue, specs[i].Max ?? double.MaxValue);
            }
        }
        var vertices = mesh.Shape.VerticesOf(numbers);
        Shape.CheckVertices(mesh.Name, vertices);
        return vertices;
    }

    private static double Furthest(Channel channel) => (channel.Curve?.Keys.Select(k => k.Value) ?? [channel.Value]).MaxBy(Math.Abs);

    private static void ValidateKeys(Shot shot)
    {
        long keys = 0;
        void Count(ImmutableSortedDictionary<string, Channel>? channels)
        {
            if (channels is not null)
            {
                foreach (var (_, channel) in channels)
                {
                    keys += channel.Curve?.Keys.Length ?? 0;
                }
            }
        }
        Count(shot.World);
        foreach (var node in shot.Nodes)
        {
            Count(node.Channels);
        }
        foreach (var material in shot.Materials)
        {
            Count(material.Channels);
        }
        foreach (var other in shot.OtherOwners)
        {
            Count(other.Channels);
        }
        if (keys > MostKeys)
        {
            throw new Refusal($"The shot would have {keys} keys, more than the {MostKeys} that it can have: thin the curves out first.");
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
        if (name.Length > MostNameLength)
        {
            throw new Refusal($"The name of the {what} is longer than {MostNameLength} characters: shorten it.");
        }
        if (name.Any(c => c == '/' || char.IsControl(c)))
        {
            throw new Refusal($"The name “{name}” holds a slash or a control character: use other characters.");
        }
    }

    private static bool HasSameIds(ImmutableArray<Material> a, ImmutableArray<Material> b) =>
        a.Length == b.Length && a.Zip(b).All(p => ReferenceEquals(p.First, p.Second) || p.First.Id == p.Second?.Id);

    private static void ValidateIds(Shot shot)
    {
        var seen = new HashSet<string>(shot.OtherOwners.Select(o => o?.Id ?? "")) { Shot.WorldOwner };
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
        var siblings = new HashSet<(string?, string)>(shot.Nodes.Length);
        var parents = new int[shot.Nodes.Length];
        for (var i = 0; i < parents.Length; i++)
        {
            var node = shot.Nodes[i];
            if (!siblings.Add((node.Parent, node.Name)))
            {
                throw new Refusal($"Two objects named “{node.Name}” would have the same parent: rename one.");
            }
            parents[i] = node.Parent is null ? -1 : shot.IndexOfNode(node.Parent);
            if (node.Parent is not null && parents[i] < 0)
            {
                throw new Refusal($"The object “{node.Name}” has the parent “{node.Parent}”, which is not in the shot.");
            }
        }
        // Each trail upwards gets a number of its own; meeting it again on the way is a circle, meeting an older one is safe.
        var trails = new int[parents.Length];
        for (var i = 0; i < parents.Length; i++)
        {
            var at = i;
            for (; at >= 0 && trails[at] == 0; at = parents[at])
            {
                trails[at] = i + 1;
            }
            if (at >= 0 && trails[at] == i + 1)
            {
                var circle = new List<string>();
                for (var step = at; circle.Count == 0 || step != at; step = parents[step])
                {
                    circle.Add(shot.Nodes[step].Id);
                }
                throw new Refusal($"The parents go round in a circle: {string.Join(" → ", circle.Take(20).Append(circle.Count > 20 ? "…" : circle[0]))}. Give one of them another parent.");
            }
        }
    }
}
