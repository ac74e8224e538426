using System.Numerics;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Render.Light;

/// <summary>A triangle of a shape at rest, and a point of it: what maps are laid onto.</summary>
/// <param name="A">Its corners, in the shape's own space, at rest.</param>
/// <param name="UvA">The texture coordinates of its corners.</param>
/// <param name="Side">For projections from six sides; see <see cref="Projecting.SideOf"/>.</param>
/// <param name="WorldB">From its first corner to its second, in the world, bent as it is.</param>
/// <param name="WorldC">From its first corner to its third.</param>
/// <param name="Seen">How much is looked at there: of a picture that is laid onto it the mean over so much is seen.</param>
internal readonly record struct MapPoint(
    Vector3 A, Vector3 B, Vector3 C, Vector2 UvA, Vector2 UvB, Vector2 UvC, int Side, Vector3 WorldB, Vector3 WorldC, float U, float V, Footprint Seen)
{
    /// <summary>The point, or one a little along the two edges from it.</summary>
    internal Vector3 At(float u, float v) => A + (B - A) * u + (C - A) * v;

    internal Vector2 UvAt(float u, float v) => UvA + (UvB - UvA) * u + (UvC - UvA) * v;
}

/// <summary>What a ray looks at on a surface: half the way across, and half the way along, where it may be longer; both in the world. Nothing for a point alone.</summary>
internal readonly record struct Footprint(Vector3 Across, Vector3 Along)
{
    /// <param name="width">How wide the ray is there.</param>
    /// <param name="flat">How the surface faces, of length 1.</param>
    internal static Footprint Of(float width, Vector3 direction, Vector3 flat)
    {
        var across = Vector3.Cross(direction, flat);
        var facing = MathF.Abs(Vector3.Dot(direction, flat));
        if (!(width > 0))
        {
            return default;
        }
        // Straight on there is no longer way.
        across = across.LengthSquared() > 1e-8f ? Vector3.Normalize(across) : Sampling.Warp.Frame(flat).Tangent;
        return new(across * (width / 2), Vector3.Cross(across, flat) * (width / (2 * MathF.Max(0.01f, facing))));
    }
}

/// <summary>The maps of a material on one frame.</summary>
internal sealed class MapSet
{
    private readonly Map[] _maps;

    private MapSet(Map[] maps) => _maps = maps;

    /// <param name="value">The values of the channels of the material.</param>
    internal static MapSet? Of(Material material, Textures textures, Func<string, double> value) =>
        material.Maps.All(m => m.Source is ClipSource) ? null : new([.. material.Maps.Where(m => m.Source is not ClipSource).Select(m => new Map(m, textures, value))]);

    /// <summary>It says how much light passes.</summary>
    internal bool HasOpacity => Array.Exists(_maps, m => m.Slot == MapSlot.Opacity);

    /// <summary>What the material is at a point.</summary>
    /// <param name="surface">What it is where no map says anything.</param>
    /// <param name="normal">In the world, of length 1, outwards.</param>
    internal Surface Apply(Surface surface, in MapPoint point, ref Vector3 normal)
    {
        foreach (var map in _maps)
        {
            switch (map.Slot)
            {
                case MapSlot.Color:
                    surface = surface with { Color = surface.Color * map.Colour(point) };
                    break;
                case MapSlot.Roughness:
                    surface = surface with { Roughness = surface.Roughness * map.Number(point) };
                    break;
                case MapSlot.Metallic:
                    surface = surface with { Metallic = surface.Metallic * map.Number(point) };
                    break;
                case MapSlot.Emission:
                    surface = surface with { Emission = surface.Emission * map.Colour(point) };
                    break;
                case MapSlot.Opacity:
                    surface = surface with { Opacity = surface.Opacity * map.Number(point) };
                    break;
                case MapSlot.Normal:
                    normal = map.Turned(point, normal);
                    break;
                case MapSlot.Bump:
                    normal = map.Bumped(point, normal);
                    break;
            }
        }
        return surface;
    }

    /// <summary>How much light is held back at a point, and what glows there.</summary>
    internal (float Opacity, Vector3 Emission) Lit(in Surface surface, in MapPoint point)
    {
        var (opacity, emission) = (surface.Opacity, surface.Emission);
        foreach (var map in _maps)
        {
            if (map.Slot == MapSlot.Opacity)
            {
                opacity *= map.Number(point);
            }
            else if (map.Slot == MapSlot.Emission)
            {
                emission *= map.Colour(point);
            }
        }
        return (opacity, emission);
    }

    private sealed class Map
    {
        private readonly SurfaceMap _map;
        private readonly Texture? _texture;
        private readonly PictureSource? _picture;
        private readonly Pattern? _pattern;
        private readonly float[] _numbers = [];
        private readonly float _strength;
        private readonly Vector2 _scale, _offset;
        private readonly (float Sin, float Cos) _turn;
        private readonly Vector3 _first, _second;

        internal Map(SurfaceMap map, Textures textures, Func<string, double> value)
        {
            _map = map;
            float Of(string name) => (float)value(map.Prefix + name);
            (_scale, _offset, _strength) = (new(Of("scale.x"), Of("scale.y")), new(Of("offset.x"), Of("offset.y")), Of("strength"));
            var (s, c) = Real.SinCosDegrees(Of("rotate"));
            _turn = ((float)s, (float)c);
            if (map.Source is PictureSource picture)
            {
                (_picture, _texture) = (picture, textures.Of(picture));
                return;
            }
            _pattern = (Pattern)map.Source;
            var own = map.Channels;
            _numbers = [.. _pattern.Names.Select(Of)];
            Vector3 Pair(string name) => map.IsColour ? new(Of($"{name}.r"), Of($"{name}.g"), Of($"{name}.b")) : own.Any(c => c.Path == map.Prefix + name) ? new(Of(name)) : Vector3.Zero;
            (_first, _second) = (Pair("first"), Pair("second"));
            if (map.Slot != MapSlot.Normal)
            {
                _strength = map.Slot == MapSlot.Bump ? _strength : Math.Clamp(_strength, 0, 1);
            }
        }

        internal MapSlot Slot => _map.Slot;

        /// <summary>What the colour is multiplied by.</summary>
        internal Vector3 Colour(in MapPoint point)
        {
            var place = Place(point, point.U, point.V);
            Vector3 colour;
            if (_texture is not null)
            {
                var c = Picture(place, Seen(point), isColour: true);
                colour = _picture!.Part == PicturePart.All ? new(c.X, c.Y, c.Z) : new(PartOf(c));
            }
            else
            {
                var (second, shade) = _pattern!.At(place, _numbers);
                colour = Vector3.Lerp(_first * shade, _second, second);
            }
            return Vector3.Max(Vector3.Zero, Vector3.Lerp(Vector3.One, colour, Math.Clamp(_strength, 0, 1)));
        }

        /// <summary>What a number is multiplied by.</summary>
        internal float Number(in MapPoint point) => 1 + Math.Clamp(_strength, 0, 1) * (Math.Clamp(Raw(Place(point, point.U, point.V), Seen(point)), 0, 1) - 1);

        /// <summary>glTF 2.0, section 3.9.3: from 0…1 to −1…1, x along the picture's u, y upwards in it, z the normal; x and y times the strength.</summary>
        internal Vector3 Turned(in MapPoint point, Vector3 normal)
        {
            var a = Place(point, 0, 0);
            var (ab, ac) = (Near(Place(point, 1, 0) - a), Near(Place(point, 0, 1) - a));
            var det = ab.X * ac.Y - ac.X * ab.Y;
            if (MathF.Abs(det) < 1e-20f)
            {
                return normal;
            }
            var right = Flat((point.WorldB * ac.Y - point.WorldC * ab.Y) / det, normal);
            var up = Flat((point.WorldB * ac.X - point.WorldC * ab.X) / det, normal);
            var place = Place(point, point.U, point.V);
            var c = Picture(place, Seen(point), isColour: false);
            var n = right * ((2 * c.X - 1) * _strength) + up * ((2 * c.Y - 1) * _strength) + normal * (2 * c.Z - 1);
            return n.LengthSquared() is > 1e-12f and < 1e12f ? Vector3.Normalize(n) : normal;
        }

        /// <summary>M. Mikkelsen, "Bump mapping unparametrized surfaces on the GPU", 2010: the slope of the height along the two edges.</summary>
        internal Vector3 Bumped(in MapPoint point, Vector3 normal)
        {
            var at = point;
            // Steps so small that they are a part of a pattern, or about a pixel of a picture, or all of it that is looked at.
            var a = Place(point, 0, 0);
            var step = 1 / (_texture is { } t ? Math.Max(t.Width, t.Height) : 512f);
            var seen = Seen(point);
            step = MathF.Max(step, 2 * MathF.Max(seen.Across.Length(), seen.Along.Length()));
            var (db, dc) = (step / MathF.Max(1e-9f, Near(Place(point, 1, 0) - a).Length()), step / MathF.Max(1e-9f, Near(Place(point, 0, 1) - a).Length()));
            float Height(float u, float v) => Raw(Place(at, u, v), seen);
            var height = Height(point.U, point.V);
            var (hb, hc) = ((Height(point.U + db, point.V) - height) / db, (Height(point.U, point.V + dc) - height) / dc);
            var (rb, rc) = (Vector3.Cross(point.WorldC, normal), Vector3.Cross(normal, point.WorldB));
            var det = Vector3.Dot(point.WorldB, rb);
            if (MathF.Abs(det) < 1e-30f)
            {
                return normal;
            }
            var bumped = normal * MathF.Abs(det) - (rb * hb + rc * hc) * (MathF.Sign(det) * _strength);
            return bumped.LengthSquared() is > 1e-30f and < 1e30f ? Vector3.Normalize(bumped) : normal;
        }

        /// <summary>Half of what is looked at, as ways over the picture; nothing for a point alone, and for a pattern.</summary>
        private (Vector2 Across, Vector2 Along) Seen(in MapPoint point)
        {
            if (_texture is null || point.Seen.Across == Vector3.Zero)
            {
                return default;
            }
            var a = Place(point, 0, 0);
            var (ab, ac) = (Near(Place(point, 1, 0) - a), Near(Place(point, 0, 1) - a));
            var (b, c) = (point.WorldB, point.WorldC);
            var (bb, bc, cc) = (Vector3.Dot(b, b), Vector3.Dot(b, c), Vector3.Dot(c, c));
            var det = bb * cc - bc * bc;
            Vector2 Way(Vector3 world)
            {
                var (wb, wc) = (Vector3.Dot(world, b), Vector3.Dot(world, c));
                var way = (ab * (cc * wb - bc * wc) + ac * (bb * wc - bc * wb)) / det;
                return new(way.X, way.Y);
            }
            return det > 0 ? (Way(point.Seen.Across), Way(point.Seen.Along)) : default;
        }

        /// <summary>
        /// The mean of what is looked at: of pixels as wide as it is across, several beside each other where it is longer the other way
        /// (J. McCormack et al., "Feline: fast elliptical lines for anisotropic texture mapping", 1999).
        /// </summary>
        private Vector4 Picture(Vector3 place, (Vector2 Across, Vector2 Along) seen, bool isColour)
        {
            var (texture, wrapU, wrapV) = (_texture!, _picture!.WrapU, _picture.WrapV);
            var (across, along) = seen;
            var size = new Vector2(texture.Width, texture.Height);
            var (shorter, longer) = (2 * (across * size).Length(), 2 * (along * size).Length());
            if (shorter > longer)
            {
                (shorter, longer, along) = (longer, shorter, across);
            }
            if (!(longer > 1) || float.IsInfinity(longer))
            {
                return texture.At(place.X, place.Y, wrapU, wrapV, isColour);
            }
            var looks = Math.Clamp((int)MathF.Ceiling(longer / MathF.Max(1, shorter)), 1, MostLooks);
            var width = MathF.Max(shorter, longer / looks);
            var sum = Vector4.Zero;
            for (var i = 0; i < looks; i++)
            {
                var off = along * ((2 * i + 1f) / looks - 1);
                sum += texture.At(place.X + off.X, place.Y + off.Y, wrapU, wrapV, isColour, width);
            }
            return sum / looks;
        }

        private const int MostLooks = 8;

        private float Raw(Vector3 place, (Vector2 Across, Vector2 Along) seen)
        {
            if (_texture is not null)
            {
                return PartOf(Picture(place, seen, isColour: false));
            }
            var (second, shade) = _pattern!.At(place, _numbers);
            return _first.X * shade + (_second.X - _first.X * shade) * second;
        }

        private float PartOf(Vector4 c) => _picture!.Part switch
        {
            PicturePart.Red => c.X,
            PicturePart.Green => c.Y,
            PicturePart.Blue => c.Z,
            PicturePart.Alpha => c.W,
            _ => 0.2126f * c.X + 0.7152f * c.Y + 0.0722f * c.Z,
        };

        /// <summary>A point of the map, as KHR_texture_transform has it: scaled, then turned, then shifted.</summary>
        private Vector3 Place(in MapPoint point, float u, float v)
        {
            var p = Projecting.Place(_map.Projection, point.At(u, v), point.Side, point.UvAt(u, v));
            var (x, y) = (p.X * _scale.X, p.Y * _scale.Y);
            return new(_turn.Cos * x + _turn.Sin * y + _offset.X, -_turn.Sin * x + _turn.Cos * y + _offset.Y, p.Z * _scale.X);
        }

        /// <summary>Over the seam of what goes round, the short way.</summary>
        private Vector3 Near(Vector3 step) => _map.Projection is MapProjection.Cylindrical or MapProjection.Spherical
            ? step with { X = step.X - MathF.Round(step.X / MathF.Max(1e-9f, MathF.Abs(_scale.X))) * MathF.Abs(_scale.X) }
            : step;

        private static Vector3 Flat(Vector3 v, Vector3 normal)
        {
            v -= normal * Vector3.Dot(v, normal);
            return v.LengthSquared() > 1e-30f ? Vector3.Normalize(v) : Vector3.Zero;
        }
    }
}
