using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>
/// Reads the motion of a shot and says what is probably not meant. Works in small pieces, so that it can run beside other work:
/// a check gives nothing (null) now and then, where it may be interrupted.
/// </summary>
public sealed class MotionChecks
{
    private readonly CheckedShot _shot;
    private readonly IEnumerator<Finding?> _run;
    private readonly List<Finding> _findings = [];

    /// <param name="shot">The shot.</param>
    /// <param name="assets">The meshes that it refers to.</param>
    /// <param name="memory">What an earlier run has found, of what is the same now; null works out everything.</param>
    /// <param name="compiled">The shot made ready, where somebody has it.</param>
    public MotionChecks(Shot shot, ShotAssets? assets = null, CheckMemory? memory = null, CompiledShot? compiled = null)
    {
        _shot = new(compiled is not null && ReferenceEquals(compiled.Shot, shot) ? compiled : new CompiledShot(shot), assets);
        _run = All(_shot, memory ?? new()).GetEnumerator();
    }

    /// <summary>What has been found so far; in order of frames once <see cref="Step"/> has said that it is done.</summary>
    public IReadOnlyList<Finding> Findings => _findings;

    /// <summary>Goes on by a small piece.</summary>
    /// <returns>False when all is done.</returns>
    public bool Step()
    {
        if (_run.MoveNext())
        {
            if (_run.Current is { } finding)
            {
                _findings.Add(finding);
            }
            return true;
        }
        _findings.RemoveAll(f => _shot.Shot.Meant.Any(m => m.Covers(f)));
        _findings.Sort((a, b) => (a.First, (int)a.Kind, a.Sentence).CompareTo((b.First, (int)b.Kind, b.Sentence)));
        return false;
    }

    /// <summary>Everything at once.</summary>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static IReadOnlyList<Finding> Of(Shot shot, ShotAssets? assets = null, CancellationToken cancel = default)
    {
        var run = new MotionChecks(shot, assets);
        while (run.Step())
        {
            cancel.ThrowIfCancellationRequested();
        }
        return run.Findings;
    }

    /// <summary>What depends on a node and its curves alone.</summary>
    private static readonly (string Name, Func<CheckedShot, Node, IEnumerable<Finding>> Check)[] OfNodes = [("drift", Drift.Of), ("flip", Flip.Of)];

    /// <summary>What depends on what it meets as well.</summary>
    private static readonly (string Name, Func<CheckedShot, Node, IEnumerable<Finding>> Check)[] OfMeetings =
        [("overshoot", Overshoot.Of), ("volume", Volume.Of), ("bounce", Bounce.Of), ("kink", Kink.Of), ("routes", Spacing.OfRoutes)];

    private static IEnumerable<Finding?> All(CheckedShot shot, CheckMemory memory)
    {
        memory.Begin();
        foreach (var _ in shot.Read().Concat(shot.Contacts.Work(memory)))
        {
            yield return null;
        }
        foreach (var curve in shot.Curves)
        {
            foreach (var finding in memory.Of(curve.Address.ToString(), [curve.Curve, curve.Owner, curve.IsActive, shot.Shot.Range, shot.Shot.Playing],
                () => [.. LoopSeam.Of(shot, curve), .. IdleKeys.Of(shot, curve), .. Spacing.OfTurns(shot, curve)]))
            {
                yield return finding;
            }
            yield return null;
        }
        foreach (var finding in memory.Of("doubled frame", [shot.Shot.Playing, shot.Shot.Layers, .. shot.Curves.SelectMany(c => (object[])[c.Address, c.Curve])], () => [.. DoubledFrame.Of(shot)]))
        {
            yield return finding;
        }
        yield return null;
        var told = new Dictionary<(string Node, string Check), Finding[]>();
        // Those that are followed first.
        foreach (var (node, leaders) in shot.Seen.Select(o => shot.Shot.FindNode(o.Key)).OfType<Node>().Select(n => (n, shot.Leaders(n).ToArray())).OrderBy(n => n.Item2.Length).ToList())
        {
            var meetings = shot.Contacts.MeetingsOf(node);
            object[] own = [node, .. leaders, shot.Shot.Range, shot.Shot.Layers];
            foreach (var ((name, check), of) in OfNodes.Select(c => (c, own)).Concat(OfMeetings.Select(c => (c, meetings))))
            {
                var findings = memory.Of($"{node.Id} {name}", of, () => [.. check(shot, node)]);
                told.Add((node.Id, name), findings);
                // What it has of another and is said there.
                var said = leaders is [var leader, ..] ? told.GetValueOrDefault((leader.Id, name)) : null;
                foreach (var finding in findings.Where(f => said is null || !said.Any(s => IsSame(s, f))))
                {
                    yield return finding;
                }
                yield return null;
            }
        }
        foreach (var finding in shot.Contacts.Findings())
        {
            yield return finding;
        }
        memory.End();
    }

    /// <summary>A leader and its follower do the same wrong.</summary>
    private static bool IsSame(Finding a, Finding b)
    {
        static IEnumerable<string> Paths(Finding finding) => finding.Channels.Select(c => c[(c.IndexOf('/', StringComparison.Ordinal) + 1)..]);
        return a.Kind == b.Kind && a.First == b.First && a.Last == b.Last && Paths(a).SequenceEqual(Paths(b));
    }
}
