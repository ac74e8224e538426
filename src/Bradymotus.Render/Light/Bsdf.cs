using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>What becomes of light at a surface.</summary>
internal enum Scattering
{
    /// <summary>It stays on this side.</summary>
    Reflected,

    /// <summary>It goes through.</summary>
    Refracted,

    /// <summary>It goes in, and hasSubsurface within.</summary>
    Entered,
}

/// <summary>
/// A rough mirror over a matt base, under a sheen and a clear coat, or over glass. In all formulas the surface normal is +Z; ωo looks to where
/// the light goes, ωi to where it comes from.
/// </summary>
/// <remarks>
/// The mirror is the microfacet model of Trowbridge and Reitz (GGX) with Smith's height-correlated masking (E. Heitz, JCGT 2014) and Schlick's Fresnel term.
/// What is lost between the facets is given back by a factor (E. Turquin, "Practical multiple scattering compensation for microfacet models", 2019);
/// the base gets what the mirror leaves. So a white surface reflects everything, at every roughness. Coat and sheen are laid over it in the same
/// way, as KHR_materials_clearcoat and KHR_materials_sheen have them; glass is B. Walter et al., "Microfacet models for refraction", 2007.
/// </remarks>
internal readonly struct Bsdf
{
    // Sharper than this nothing mirrors.
    private const float Sharpest = 0.05f;

    private readonly Vector3 _f0, _diffuse, _mirror, _compensation;
    private readonly float _alpha, _mirrorChance;
    private readonly Over? _over;

    /// <param name="cosOut">The cosine between ωo and the normal, above 0.</param>
    /// <param name="isFront">The light comes out of a surface that is met from outside.</param>
    /// <param name="hasSubsurface">Light may wander within; else what would is reflected at once.</param>
    /// <param name="least">What is less rough than this mirrors as much, and as widely as this roughness does.</param>
    internal Bsdf(in Surface surface, float cosOut, bool isFront = true, bool hasSubsurface = false, float least = 0)
    {
        var roughness = Math.Clamp(surface.Roughness, Sharpest, 1);
        var wide = MathF.Max(least, roughness);
        _alpha = wide * wide;
        var layers = surface.Layers;
        var plain = new Vector3(layers is null ? 0.04f : Dielectric.Facing(layers.Ior));
        _f0 = Vector3.Lerp(plain, surface.Color, surface.Metallic);
        (_mirror, _compensation) = Mirrored(_f0, cosOut, roughness, wide);
        // The part that is no metal leaves to its base what its own mirror leaves.
        var left = (1 - surface.Metallic) * (1 - MathF.Min(1, surface.Metallic > 0 ? Mirrored(plain, cosOut, roughness).Whole.X : _mirror.X));
        _diffuse = surface.Color * left;
        if (layers is not null)
        {
            var inner = hasSubsurface ? layers.Subsurface : 0;
            var subsurface = new Vector3(left * inner);
            _diffuse *= 1 - inner;
            _over = new(layers, surface, cosOut, isFront, least, subsurface, Mean(surface.Color) * Mean(subsurface), Mean(_mirror) + Mean(_diffuse));
        }
        var m = Mean(_mirror);
        _mirrorChance = m / Math.Max(1e-6f, m + Mean(_diffuse));
    }

    private Bsdf(Vector3 diffuse) => (_f0, _diffuse, _mirror, _compensation, _alpha, _mirrorChance, _over) = (Vector3.Zero, diffuse, Vector3.Zero, Vector3.One, 1, 0, null);

    /// <summary>Matt, without a mirror.</summary>
    internal static Bsdf Matt(Vector3 color) => new(color);

    /// <summary>All the light that is reflected out of even light, where there is nothing but mirror and base.</summary>
    internal Vector3 Total => _mirror + _diffuse;

    /// <summary>How widely mirror and base together spread light: 1 for what is matt, 0 for a sharp mirror.</summary>
    internal float Spread => 1 - _mirrorChance * (1 - _alpha);

    /// <summary>The reflected part per solid angle, times the cosine of ωi.</summary>
    internal Vector3 Evaluate(Vector3 wo, Vector3 wi)
    {
        if (wi.Z <= 0)
        {
            return Vector3.Zero;
        }
        var ground = _diffuse * (wi.Z / MathF.PI);
        ground += _f0 == Vector3.Zero ? Vector3.Zero : Mirror(wo, wi) * wi.Z;
        return _over is null ? ground : _over.Evaluate(ground, wo, wi, _alpha);
    }

    /// <summary>A direction from which light comes, and the reflected part over the density of choosing it.</summary>
    /// <param name="density">As <see cref="Density"/>; infinite where light goes through or in, which has no other way.</param>
    /// <param name="how">Where light goes in, the direction is where it goes.</param>
    internal Vector3 Sample(Vector3 wo, Vector2 u, float lobe, out Vector3 wi, out float density, out Scattering how)
    {
        how = Scattering.Reflected;
        if (_over is not null && _over.Sample(wo, u, ref lobe, _alpha, out wi, out how, out var weight))
        {
            if (how != Scattering.Reflected)
            {
                density = float.PositiveInfinity;
                return weight;
            }
        }
        else
        {
            wi = lobe < _mirrorChance ? Vector3.Reflect(-wo, Albedo.VisibleFacet(wo, u, _alpha)) : Warp.CosineHemisphere(u);
        }
        density = wi.Z <= 1e-6f ? 0 : Density(wo, wi);
        return density > 0 ? Evaluate(wo, wi) / density : Vector3.Zero;
    }

    /// <summary>How densely <see cref="Sample"/> chooses a direction, per solid angle.</summary>
    internal float Density(Vector3 wo, Vector3 wi)
    {
        if (wi.Z <= 0)
        {
            return 0;
        }
        var ground = _mirrorChance * FacetDensity(wo, wi, _alpha) + (1 - _mirrorChance) * wi.Z / MathF.PI;
        return _over is null ? ground : _over.Density(ground, wo, wi, _alpha);
    }

    private Vector3 Mirror(Vector3 wo, Vector3 wi) => Mirror(wo, wi, _f0, _alpha) * _compensation;

    private static Vector3 Mirror(Vector3 wo, Vector3 wi, Vector3 f0, float alpha)
    {
        var h = Vector3.Normalize(wo + wi);
        var fresnel = f0 + (Vector3.One - f0) * Albedo.Fifth(1 - Math.Clamp(Vector3.Dot(wo, h), 0, 1));
        return fresnel * (Albedo.Distribution(h.Z, alpha) / ((1 + Albedo.Lambda(wo.Z, alpha) + Albedo.Lambda(wi.Z, alpha)) * 4 * wo.Z * wi.Z));
    }

    /// <summary>What a mirror reflects of even light, and the factor for what is lost between its facets.</summary>
    private static (Vector3 Whole, Vector3 Compensation) Mirrored(Vector3 f0, float cosOut, float roughness)
    {
        var (scale, bias) = Albedo.Of(cosOut, roughness);
        var compensation = Vector3.One + f0 * ((1 - scale - bias) / (scale + bias));
        return ((f0 * scale + new Vector3(bias)) * compensation, compensation);
    }

    /// <summary>As much as a mirror of one roughness reflects, spread as widely as one of another does.</summary>
    private static (Vector3 Whole, Vector3 Compensation) Mirrored(Vector3 f0, float cosOut, float roughness, float wide)
    {
        var own = Mirrored(f0, cosOut, roughness);
        if (wide == roughness)
        {
            return own;
        }
        var (whole, compensation) = Mirrored(f0, cosOut, wide);
        return (own.Whole, compensation * own.Whole / Vector3.Max(whole, new(1e-9f)));
    }

    /// <summary>How densely directions come of mirroring at a facet that is seen.</summary>
    private static float FacetDensity(Vector3 wo, Vector3 wi, float alpha)
    {
        var h = Vector3.Normalize(wo + wi);
        return Albedo.Distribution(h.Z, alpha) / (4 * wo.Z * (1 + Albedo.Lambda(wo.Z, alpha)));
    }

    private static float Mean(Vector3 v) => (v.X + v.Y + v.Z) / 3;

    /// <summary>What lies over the base, and in its place.</summary>
    private sealed class Over
    {
        private readonly float _coat, _coatAlpha, _coatAlbedo, _sheenRoughness, _sheenScale, _glass, _eta;
        private readonly float _coatChance, _sheenChance, _glassChance, _innerChance, _underCoat, _underSheen;
        private readonly Vector3 _sheen, _inner, _tint, _coatCompensation;
        private readonly bool _isThin;

        internal Over(Layers layers, in Surface surface, float cosOut, bool isFront, float least, Vector3 subsurface, float subsurfaceMean, float groundMean)
        {
            _coat = Math.Clamp(layers.Coat, 0, 1);
            var coatRoughness = Math.Clamp(layers.CoatRoughness, Sharpest, 1);
            var wide = MathF.Max(least, coatRoughness);
            _coatAlpha = wide * wide;
            var (coated, compensation) = Mirrored(new(0.04f), cosOut, coatRoughness, wide);
            (_coatAlbedo, _coatCompensation) = (MathF.Min(1, coated.X), compensation);
            _underCoat = 1 - _coat * _coatAlbedo;
            _sheenRoughness = Math.Clamp(layers.SheenRoughness, 0.07f, 1);
            var sheened = Fibres.Albedo(cosOut, _sheenRoughness);
            _sheenScale = 1 / MathF.Max(1, sheened);
            sheened *= _sheenScale;
            _sheen = Vector3.Min(Vector3.One, layers.Sheen);
            _underSheen = 1 - MathF.Max(_sheen.X, MathF.Max(_sheen.Y, _sheen.Z)) * sheened;
            _glass = Math.Clamp(layers.Glass, 0, 1) * (1 - surface.Metallic);
            _isThin = layers.Thin;
            _eta = _isThin || isFront ? 1 / layers.Ior : layers.Ior;
            _tint = _isThin || isFront ? surface.Color : Vector3.One;
            _inner = subsurface * (1 - _glass);
            var below = _underCoat * _underSheen;
            var (coat, sheen, glass) = (_coat * _coatAlbedo, _underCoat * Mean(_sheen) * sheened, below * _glass);
            var (inner, ground) = (below * (1 - _glass) * subsurfaceMean, below * (1 - _glass) * groundMean);
            var all = MathF.Max(1e-9f, coat + sheen + glass + inner + ground);
            (_coatChance, _sheenChance, _glassChance, _innerChance) = (coat / all, sheen / all, glass / all, inner / all);
        }

        internal Vector3 Evaluate(Vector3 ground, Vector3 wo, Vector3 wi, float alpha)
        {
            if (_glass > 0)
            {
                ground = ground * (1 - _glass) + new Vector3(_glass * GlassDensity(wo, wi, alpha));
            }
            ground *= _underSheen;
            if (_sheen != Vector3.Zero)
            {
                ground += _sheen * (_sheenScale * Fibres.Evaluate(wo, wi, _sheenRoughness));
            }
            return ground * _underCoat + (_coat > 0 ? Mirror(wo, wi, new(0.04f), _coatAlpha) * _coatCompensation * (_coat * wi.Z) : Vector3.Zero);
        }

        internal float Density(float ground, Vector3 wo, Vector3 wi, float alpha) =>
            ground * (1 - _coatChance - _sheenChance - _glassChance - _innerChance)
            + (_coatChance > 0 ? _coatChance * FacetDensity(wo, wi, _coatAlpha) : 0)
            + _sheenChance * wi.Z / MathF.PI
            + (_glassChance > 0 ? _glassChance * GlassDensity(wo, wi, alpha) : 0);

        /// <summary>Chooses among what lies over the base; false, and what is left of the choice, for the base.</summary>
        internal bool Sample(Vector3 wo, Vector2 u, ref float lobe, float alpha, out Vector3 wi, out Scattering how, out Vector3 weight)
        {
            (how, weight, wi) = (Scattering.Reflected, Vector3.One, Vector3.UnitZ);
            if (lobe < _coatChance)
            {
                wi = Vector3.Reflect(-wo, Albedo.VisibleFacet(wo, u, _coatAlpha));
                return true;
            }
            lobe -= _coatChance;
            if (lobe < _sheenChance)
            {
                wi = Warp.CosineHemisphere(u);
                return true;
            }
            lobe -= _sheenChance;
            if (lobe < _glassChance)
            {
                // What a facet sends to the wrong side goes on where it belongs, so that glass loses nothing.
                var h = Albedo.VisibleFacet(wo, u, alpha);
                var reflected = Facing(Vector3.Dot(wo, h));
                if (lobe < _glassChance * reflected)
                {
                    wi = Vector3.Reflect(-wo, h);
                    wi.Z = MathF.Max(1e-4f, MathF.Abs(wi.Z));
                    return true;
                }
                how = Scattering.Refracted;
                weight = _tint * (_underCoat * _underSheen * _glass / _glassChance);
                var through = _isThin ? Vector3.Reflect(-wo, h) : Dielectric.Refracted(wo, h, _eta);
                // A sheet throws as wide as it mirrors, on its other side.
                wi = through with { Z = -MathF.Max(1e-4f, MathF.Abs(through.Z)) };
                return true;
            }
            lobe -= _glassChance;
            if (lobe < _innerChance)
            {
                var c = Warp.CosineHemisphere(u);
                (how, wi, weight) = (Scattering.Entered, -c, _inner * (_underCoat * _underSheen / _innerChance));
                return true;
            }
            lobe = Math.Clamp((lobe - _innerChance) / MathF.Max(1e-9f, 1 - _coatChance - _sheenChance - _glassChance - _innerChance), 0, 0.99999994f);
            return false;
        }

        private float GlassDensity(Vector3 wo, Vector3 wi, float alpha) =>
            Facing(Vector3.Dot(wo, Vector3.Normalize(wo + wi))) * FacetDensity(wo, wi, alpha);

        /// <summary>The part that is reflected at a facet; of a sheet, from both of its sides, as often as light goes between them.</summary>
        private float Facing(float cos)
        {
            var f = Dielectric.Reflected(cos, _eta);
            return _isThin ? 2 * f / (1 + f) : f;
        }
    }
}
