using System.Text.Json;
using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>What happened to a change.</summary>
/// <param name="Refusal">Why not; null when it was made.</param>
/// <param name="Entry">The line of the journal, to be sent on.</param>
internal sealed record Outcome(string? Refusal = null, JsonElement? Entry = null);

/// <summary>The structure of the shot as the panels show it. Curves are fetched one by one.</summary>
/// <param name="Specs">What kinds of channels there are; owners of one kind share a list.</param>
/// <param name="Keys">The frames of the keys of every channel that has a curve, by address.</param>
internal sealed record SceneView(
    string Name, double Rate, int RateNumerator, int RateDenominator, int First, int Last, int PlayFirst, int PlayLast, bool HasPlayRange,
    int Width, int Height, string? Camera, NodeView[] Nodes, MaterialView[] Materials,
    ChannelSpec[][] Specs, OwnerView[] Owners, Dictionary<string, double[]> Keys);

/// <param name="Index">Its place in the frame buffers.</param>
internal sealed record NodeView(string Id, string Name, string? Parent, string Kind, int Index, bool Locked, JsonElement Data);

internal sealed record MaterialView(string Id, string Name);

/// <summary>The channels of one owner: those of its list of specs, one after the other in the buffer of values.</summary>
/// <param name="First">The place of its first channel.</param>
/// <param name="Specs">Which list; see <see cref="SceneView.Specs"/>.</param>
internal sealed record OwnerView(string Id, int First, int Specs);

/// <summary>A curve ready for drawing: absolute control points, sampled easings.</summary>
internal sealed record CurveView(KeyView[] Keys, Extrapolation Before, Extrapolation After);

/// <param name="In">Where its handles end, as offsets in frames and value.</param>
/// <param name="Samples">Values of an easing, evenly spaced from this key to the next; null for other segments.</param>
internal sealed record KeyView(
    double Frame, double Value, Segment Segment, Handle InKind, Handle OutKind, bool Joined, double[] In, double[] Out, double[]? Samples);

/// <summary>What is different since the page last asked.</summary>
/// <param name="Structure">Objects, materials or the shot itself: everything has to be read again.</param>
/// <param name="Keys">The channels whose curves are different, with the frames of their keys.</param>
internal sealed record ChangesView(bool Structure, Dictionary<string, double[]> Keys);

internal sealed record HistoryView(int Revision, int Content, int? Undo, string? UndoLabel, int? Redo, string? RedoLabel, StepView[] Steps);

internal sealed record StepView(int Revision, int Content, string Label);

[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase)]
[JsonSerializable(typeof(Outcome))]
[JsonSerializable(typeof(SceneView))]
[JsonSerializable(typeof(CurveView))]
[JsonSerializable(typeof(ChangesView))]
[JsonSerializable(typeof(HistoryView))]
[JsonSerializable(typeof(ChannelValue[]))]
[JsonSerializable(typeof(double[]))]
[JsonSerializable(typeof(string[]))]
internal sealed partial class EngineJsonContext : JsonSerializerContext;
