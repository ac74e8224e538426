using System.Text.Json;
using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>What happened to a change.</summary>
/// <param name="Refusal">Why not; null when it was made.</param>
/// <param name="Entry">The line of the journal, to be sent on.</param>
internal sealed record Outcome(string? Refusal = null, JsonElement? Entry = null);

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
