using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Core.Evaluation;

/// <summary>The structure of a shot as panels show it. Curves are not in it, only where their keys are.</summary>
/// <param name="Specs">What kinds of channels there are; owners of one kind share a list.</param>
/// <param name="Keys">The frames of the keys of every channel that has a curve, by address.</param>
/// <param name="Locked">The addresses of the channels that are locked.</param>
/// <param name="Muted">The addresses of the channels whose curves have no say.</param>
public sealed record SceneView(
    HeadView Head, NodeView[] Nodes, MaterialView[] Materials, ChannelSpec[][] Specs, OwnerView[] Owners, Dictionary<string, double[]> Keys, string[] Locked,
        string[] Muted, Layer[] Layers, Sound[] Sounds)
{
    /// <summary>What the page needs to know of a shot.</summary>
    public static SceneView Of(CompiledShot compiled)
    {
        var shot = compiled.Shot;
        var nodes = shot.Nodes.Select(n => NodeView.Of(compiled, n)).ToArray();
        var specs = new List<ChannelList>();
        var owners = new List<OwnerView>();
        foreach (var (id, first, list) in compiled.OwnerChannels())
        {
            var at = specs.IndexOf(list);
            if (at < 0)
            {
                at = specs.Count;
                specs.Add(list);
            }
            owners.Add(new(id, first, at));
        }
        var keys = shot.AllSetChannels().Where(c => c.Channel.Curve is not null)
            .ToDictionary(c => c.Address.ToString(), c => c.Channel.Curve!.Keys.Select(k => k.Frame).ToArray());
        return new(HeadView.Of(shot), nodes, [.. shot.Materials.Select(m => new MaterialView(m.Id, m.Name, [.. m.Maps]))],
            [.. specs.Select(l => l.Specs.ToArray())], [.. owners], keys, [.. shot.AllSetChannels().Where(c => c.Channel.Locked).Select(c => c.Address.ToString())],
                [.. shot.AllSetChannels().Where(c => c.Channel.Muted).Select(c => c.Address.ToString())], [.. shot.Layers.Select(l => l with { Channels = null })],
                [.. shot.Sounds.Select(s => s with { Channels = null })]);
    }
}

/// <summary>What a shot has besides its objects, materials, layers and sounds: little, and read by itself when nothing else is different.</summary>
/// <param name="First">First frame of the range.</param>
/// <param name="Last">Last frame of the range, inclusive.</param>
/// <param name="Camera">The id of the camera that renders see through.</param>
public sealed record HeadView(
    string Name, double Rate, int RateNumerator, int RateDenominator, int First, int Last, int PlayFirst, int PlayLast, bool HasPlayRange,
    int Width, int Height, string? Camera, SkyPicture? SkyPicture, Background Background, KeyStyle? NewKeys, Marker[] Markers, ObjectSet[] Sets, MeantFinding[] Meant)
{
    /// <summary>What a shot has besides its objects.</summary>
    public static HeadView Of(Shot shot) => new(shot.Name, shot.Rate.FramesPerSecond, shot.Rate.Numerator, shot.Rate.Denominator, shot.Range.First, shot.Range.Last,
        shot.Playing.First, shot.Playing.Last, shot.PlayRange is not null, shot.Size.Width, shot.Size.Height, shot.RenderCamera()?.Id,
        shot.SkyPicture, shot.Background, shot.NewKeys, [.. shot.Markers], [.. shot.Sets], [.. shot.Meant]);
}

/// <param name="Index">Its place in the buffers of a frame; see <see cref="FrameBuffers"/>.</param>
/// <param name="Data">The node as in the shot file, without its channels.</param>
public sealed record NodeView(
    string Id, string Name, string? Parent, int Index, bool Locked, [property: JsonConverter(typeof(NodeDataConverter))] Node Data)
{
    /// <summary>What the page needs to know of one node.</summary>
    public static NodeView Of(CompiledShot compiled, Node node) =>
        new(node.Id, node.Name, node.Parent, compiled.IndexOfNode(node.Id), node.Locked, node with { Channels = null });
}

/// <param name="Maps">As in the shot file.</param>
public sealed record MaterialView(string Id, string Name, [property: JsonConverter(typeof(MapsConverter))] SurfaceMap[] Maps);

/// <summary>The channels of one owner: those of its list of specs, one after the other in the buffer of values.</summary>
/// <param name="First">The place of its first channel.</param>
/// <param name="Specs">Which list; see <see cref="SceneView.Specs"/>.</param>
public sealed record OwnerView(string Id, int First, int Specs);
