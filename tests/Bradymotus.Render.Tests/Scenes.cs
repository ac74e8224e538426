using System.Collections.Immutable;
using System.Numerics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Render.Tests;

/// <summary>What small scenes are put together from.</summary>
internal static class Scenes
{
    internal static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
        ImmutableSortedDictionary.CreateRange(values.Select(v => KeyValuePair.Create(v.Path, new Channel(v.Value))));

    /// <summary>A material that is rough and grey unless it is said otherwise.</summary>
    internal static Material Matt(string id, double colour, params (string Path, double Value)[] more) =>
        new(id, id, Channels(("look.color.r", colour), ("look.color.g", colour), ("look.color.b", colour), ("look.roughness", 1)).SetItems(Channels(more)));

    internal static Vector3[] Radiance(Shot shot, int size, Quality quality, int? samples = null, double frame = 0)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(frame);
        return Renderer.Radiance(new RenderScene(state, shot.RenderCamera()!), new(size, size), quality, samples);
    }
}
