using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;

namespace Bradymotus.Core.Evaluation;

/// <summary>What happened to a change.</summary>
/// <param name="Refusal">Why not; null when it was made.</param>
/// <param name="Entry">The line of the journal, to be sent on.</param>
public sealed record Outcome(string? Refusal = null, JournalEntry? Entry = null);

/// <summary>What is left to be sent after lines of others were put in.</summary>
/// <param name="Refusal">Why the shot has to be opened again; null when it went well.</param>
/// <param name="Pending">This window's lines, as they have to be sent now.</param>
/// <param name="Dropped">How many no longer fit.</param>
public sealed record Merged(string? Refusal, IReadOnlyList<JournalEntry> Pending, int Dropped);

/// <summary>A curve ready for drawing, but for the numbers of its keys, which go as bare numbers: a curve may have thousands of keys, and few looks.</summary>
/// <param name="Looks">What keys look like.</param>
/// <param name="Eases">The easings among the segments, sampled.</param>
public sealed record CurveView(KeyLook[] Looks, EaseSamples[] Eases, Extrapolation Before, Extrapolation After)
{
    /// <summary>So many numbers has a key: frame, value, where its handles end as offsets in frames and value (in, then out), and which look it has.</summary>
    public const int NumbersOfKey = 7;
}

/// <summary>What a key looks like; of a free handle only that it is free.</summary>
public sealed record KeyLook(Segment Segment, Handle InKind, Handle OutKind, bool Joined);

/// <param name="Key">The place of the key that the easing leaves.</param>
/// <param name="Values">Evenly spaced from this key to the next.</param>
public sealed record EaseSamples(int Key, double[] Values);

/// <summary>What is different since the page last asked.</summary>
/// <param name="Structure">Objects came or went, or have other channels or another parent: everything has to be read again.</param>
/// <param name="Head">Where the structure is the same, what the shot has besides its objects, if something of that is different.</param>
/// <param name="Nodes">Where the structure is the same, the nodes that are different in something but their channels.</param>
/// <param name="Keys">The channels whose curves are different, with how many keys they have; the frames of all of them come as bare numbers, in the same order.</param>
public sealed record ChangesView(bool Structure, HeadView? Head, NodeView[] Nodes, Dictionary<string, int> Keys);

/// <param name="Steps">Those after the revision that was asked for.</param>
public sealed record HistoryView(int Revision, int Content, string? UndoLabel, string? RedoLabel, StepView[] Steps);

/// <summary>A step of the history, as a list shows it.</summary>
/// <param name="Revision">Its place in the journal, from 0.</param>
/// <param name="Content">The revision whose state it shows: after an undo, an earlier one.</param>
/// <param name="Label">What it did, in a few words.</param>
public sealed record StepView(int Revision, int Content, string Label);

/// <summary>Values that were set on a frame and not keyed before it was left.</summary>
public sealed record LeftView(double Frame, int Count);

/// <summary>A mesh with traced vertices; see <see cref="TracedMesh"/>.</summary>
public sealed record TraceView(string Node, int Version, int First, int[] Vertices, double[] Keys);
