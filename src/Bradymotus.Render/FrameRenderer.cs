using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using Bradymotus.Render.Pictures;

namespace Bradymotus.Render;

/// <summary>Renders frames of one shot, one after the other. Compiles the shot once. For one thread at a time.</summary>
public sealed class FrameRenderer
{
    private readonly FrameState _state;
    private readonly CameraNode _camera;
    private readonly Textures _textures;

    /// <param name="camera">Name or id; null is the shot's own.</param>
    /// <param name="assets">The meshes and pictures that the shot refers to.</param>
    /// <exception cref="Refusal">The shot has no such camera, or none at all.</exception>
    public FrameRenderer(Shot shot, string? camera = null, ShotAssets? assets = null)
    {
        _camera = shot.RenderCamera(camera)
            ?? throw new Refusal($"The shot “{shot.Name}” has no camera: add one and point it at the scene.");
        _state = new FrameState(new CompiledShot(shot), assets);
        _textures = new(assets);
    }

    /// <summary>One frame.</summary>
    public Picture Render(double frame, PictureSize size, Quality quality, int? samples = null, int? threads = null, CancellationToken cancel = default)
    {
        _state.Evaluate(frame);
        return Renderer.Render(new RenderScene(_state, _camera, _textures), size, quality, samples, threads, cancel);
    }
}
