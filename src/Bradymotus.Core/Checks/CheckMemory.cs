using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Core.Checks;

/// <summary>What checks have found, of what: as long as all that it depends on is the same, it is not worked out again.</summary>
public sealed class CheckMemory
{
    private readonly Dictionary<string, (object[] Of, object Result)> _known = [];
    private readonly HashSet<string> _used = [];

    private (FrameState State, ShotAssets? Assets)? _frames;

    internal void Begin() => _used.Clear();

    /// <summary>Where the frames are looked at: that of the run before goes over to the shot as it is now, so that only what is another is made ready.</summary>
    internal FrameState Frames(CompiledShot compiled, ShotAssets? assets)
    {
        if (_frames is { } kept && ReferenceEquals(kept.Assets, assets))
        {
            kept.State.Show(compiled);
            kept.State.ReloadAssets();
            return kept.State;
        }
        var state = new FrameState(compiled, assets);
        _frames = (state, assets);
        return state;
    }

    /// <summary>Forgets what the run did not ask for.</summary>
    internal void End()
    {
        foreach (var subject in _known.Keys.Where(k => !_used.Contains(k)).ToList())
        {
            _known.Remove(subject);
        }
    }

    /// <param name="subject">What it is about.</param>
    /// <param name="of">What it depends on: records that are replaced when they change, or values.</param>
    /// <param name="result">What it was; only set where it is known.</param>
    internal bool TryGet<T>(string subject, object[] of, out T result)
        where T : class
    {
        _used.Add(subject);
        if (_known.TryGetValue(subject, out var known) && known.Of.Length == of.Length && known.Result is T kept)
        {
            for (var i = 0; i < of.Length; i++)
            {
                if (!ReferenceEquals(of[i], known.Of[i]) && (!of[i].GetType().IsValueType || !of[i].Equals(known.Of[i])) && (of[i] is not string s || !s.Equals(known.Of[i])))
                {
                    result = null!;
                    return false;
                }
            }
            result = kept;
            return true;
        }
        result = null!;
        return false;
    }

    internal void Put(string subject, object[] of, object result) => _known[subject] = (of, result);

    internal Finding[] Of(string subject, object[] of, Func<Finding[]> make)
    {
        if (!TryGet(subject, of, out Finding[] result))
        {
            result = make();
            Put(subject, of, result);
        }
        return result;
    }
}
