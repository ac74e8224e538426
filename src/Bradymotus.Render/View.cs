using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Rays;

namespace Bradymotus.Render;

/// <summary>A camera ready to send rays. Its scale does not matter; the field of view is the vertical one.</summary>
internal sealed class View
{
    private readonly Vector3 _right, _up, _back, _origin;
    private readonly float _half;
    private readonly bool _parallel;

    internal View(in Affine world, CameraNode camera, float fov, float height)
    {
        _back = RenderScene.ToVector(world.Z.Normalized());
        _up = RenderScene.ToVector(world.Y.Normalized());
        _right = Vector3.Cross(_up, _back);
        _origin = RenderScene.ToVector(world.Origin);
        _parallel = camera.Projection == Projection.Orthographic;
        _half = _parallel ? height / 2 : MathF.Tan(Math.Clamp(fov, 1, 170) * MathF.PI / 360);
        if (!(_right.LengthSquared() > 1e-6f) || !float.IsFinite(_half) || _half <= 0)
        {
            throw new Refusal($"The camera “{camera.Name}” cannot see: its scale or its view height is 0.");
        }
    }

    /// <summary>The ray through a point of the picture; x from −1 (left) to 1, y from −1 (bottom) to 1.</summary>
    internal Ray Through(float x, float y, float aspect)
    {
        var across = _right * (x * _half * aspect) + _up * (y * _half);
        return _parallel ? new(_origin + across, -_back) : new(_origin, Vector3.Normalize(across - _back));
    }
}
