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
internal sealed record SceneView(
    string Name, double Rate, int RateNumerator, int RateDenominator, int First, int Last, int PlayFirst, int PlayLast, bool HasPlayRange,
    int Width, int Height, string? Camera, NodeView[] Nodes, MaterialView[] Materials, ChannelView[] Channels);

/// <param name="Index">Its place in the frame buffers.</param>
internal sealed record NodeView(string Id, string Name, string? Parent, string Kind, int Index, bool Locked, JsonElement Data);

internal sealed record MaterialView(string Id, string Name);

/// <param name="Index">Its place in the buffer of values.</param>
/// <param name="Keys">The frames of its keys; empty when it has no curve.</param>
internal sealed record ChannelView(
    int Index, string Owner, string Path, string Label, ChannelFamily Family, string Unit, double Default, double? Min, double? Max, double Step, bool Stepped, double[] Keys);

/// <summary>A curve ready for drawing: absolute control points, sampled easings.</summary>
internal sealed record CurveView(KeyView[] Keys, Extrapolation Before, Extrapolation After);

/// <param name="In">Where its handles end, as offsets in frames and value.</param>
/// <param name="Samples">Values of an easing, evenly spaced from this key to the next; null for other segments.</param>
internal sealed record KeyView(
    double Frame, double Value, Segment Segment, Handle InKind, Handle OutKind, bool Joined, double[] In, double[] Out, double[]? Samples);

internal sealed record HistoryView(int Revision, int Content, int? Undo, string? UndoLabel, int? Redo, string? RedoLabel, StepView[] Steps);

internal sealed record StepView(int Revision, int Content, string Label);

[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase)]
[JsonSerializable(typeof(Outcome))]
[JsonSerializable(typeof(SceneView))]
[JsonSerializable(typeof(CurveView))]
[JsonSerializable(typeof(HistoryView))]
[JsonSerializable(typeof(ChannelValue[]))]
[JsonSerializable(typeof(double[]))]
[JsonSerializable(typeof(string[]))]
internal sealed partial class EngineJsonContext : JsonSerializerContext;
