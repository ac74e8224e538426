using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

/// <summary>A camera ready to send rays. Its scale does not matter; the field of view is the vertical one.</summary>
internal sealed class View
{
    private readonly Vector3 _right, _up, _back, _origin;
    private readonly float _half, _near, _far, _focus, _aperture;
    private readonly bool _parallel;

    internal View(in Affine world, CameraNode camera, in Lens lens)
    {
        _back = RenderScene.ToVector(world.Z.Normalized());
        _up = RenderScene.ToVector(world.Y.Normalized());
        _right = Vector3.Cross(_up, _back);
        _origin = RenderScene.ToVector(world.Origin);
        _parallel = camera.Projection == Projection.Orthographic;
        _half = _parallel ? (float)lens.Height / 2 : MathF.Tan((float)lens.Angle * MathF.PI / 360);
        (_near, _far, _focus, _aperture) = ((float)lens.Near, (float)lens.Far, (float)lens.Focus, (float)lens.Aperture);
        if (!(_right.LengthSquared() > 1e-6f) || !float.IsFinite(_half) || _half <= 0)
        {
            throw new Refusal($"The camera “{camera.Name}” cannot see: its scale or its view height is 0.");
        }
    }

    /// <summary>Rays of one point start from different points of the lens.</summary>
    internal bool HasLens => _aperture > 0;

    /// <summary>The ray through a point of the picture; x from −1 (left) to 1, y from −1 (bottom) to 1.</summary>
    /// <param name="lens">A point of the unit square, for where on the lens it starts.</param>
    /// <param name="part">The part of the picture's height that it looks at.</param>
    internal Ray Through(float x, float y, float aspect, Vector2 lens = default, float part = 0)
    {
        // Of what lies a metre away, or wherever it lies.
        var wide = 2 * _half * part;
        var across = _right * (x * _half * aspect) + _up * (y * _half);
        if (_parallel)
        {
            return new(_origin + across - _back * _near, -_back, _far - _near) { Width = wide };
        }
        // As far along as the ray is longer than the axis.
        var way = across - _back;
        if (_aperture == 0)
        {
            var longer = way.Length();
            return new(_origin + way * _near, way / longer, (_far - _near) * longer) { Width = wide * _near, Spread = wide / longer };
        }
        // A thin lens: all rays of a point meet where it is in focus.
        var disk = Warp.Disk(lens) * _aperture;
        var start = _origin + _right * disk.X + _up * disk.Y;
        way = (_origin + way * _focus - start) / _focus;
        var length = way.Length();
        return new(start + way * _near, way / length, (_far - _near) * length) { Width = wide * _near, Spread = wide / length };
    }
}
