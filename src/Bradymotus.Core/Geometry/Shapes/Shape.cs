using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>
/// What a mesh starts from, in metres, standing round the origin. Its numbers are channels <c>shape.NAME</c>, which have the shape's own
/// numbers until somebody sets them. A new kind is one record: its numbers, what they are called, and how it is built.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(BoxShape), "box")]
[JsonDerivedType(typeof(SphereShape), "sphere")]
[JsonDerivedType(typeof(GeodesicShape), "geodesic")]
[JsonDerivedType(typeof(CylinderShape), "cylinder")]
[JsonDerivedType(typeof(TorusShape), "torus")]
[JsonDerivedType(typeof(PlaneShape), "plane")]
[JsonDerivedType(typeof(DiscShape), "disc")]
[JsonDerivedType(typeof(HelixShape), "helix")]
[JsonDerivedType(typeof(TubeShape), "tube")]
[JsonDerivedType(typeof(OutlineShape), "outline")]
[JsonDerivedType(typeof(AssetShape), "asset")]
public abstract record Shape
{
    /// <summary>The most vertices of one shape: more would not be moved in time by anything that bends them.</summary>
    public const int MostVertices = 2_000_000;

    /// <summary>Its numbers, with paths relative to <c>shape.</c>.</summary>
    [JsonIgnore]
    public abstract ImmutableArray<ChannelSpec> Channels { get; }

    /// <summary>What these are until somebody sets them: one for each of <see cref="Channels"/>.</summary>
    [JsonIgnore]
    public abstract ImmutableArray<double> Numbers { get; }

    /// <summary>Collects its triangles. The same numbers give the same mesh.</summary>
    /// <param name="v">The values of its channels, held to what they may be by <see cref="Hold"/>.</param>
    /// <param name="mesh">What they are collected in.</param>
    internal abstract void Build(ReadOnlySpan<double> v, MeshBuilder mesh);

    /// <summary>How many vertices <see cref="Build(ReadOnlySpan{double}, MeshBuilder)"/> makes, worked out without making them.</summary>
    internal abstract long VerticesOf(ReadOnlySpan<double> v);

    /// <summary>Whether the other would be the same mesh with the same values.</summary>
    internal virtual bool IsLike(Shape other) => GetType() == other.GetType();

    /// <summary>How many vertices it has with its own numbers.</summary>
    [JsonIgnore]
    public long VertexCount => VerticesOf(Numbers.AsSpan());

    /// <summary>The triangles of its own numbers.</summary>
    public Mesh Build() => Build(Numbers.AsSpan());

    /// <summary>The triangles of other numbers than its own, which are held to what they may be.</summary>
    internal Mesh Build(ReadOnlySpan<double> values)
    {
        Span<double> held = stackalloc double[values.Length];
        Hold(values, held);
        var mesh = new MeshBuilder();
        Build(held, mesh);
        return mesh.ToMesh();
    }

    /// <summary>Holds values to what its numbers may be: within their bounds, whole where they count something, and not too many vertices together.</summary>
    internal void Hold(ReadOnlySpan<double> values, Span<double> held)
    {
        for (var i = 0; i < held.Length; i++)
        {
            var spec = Channels[i];
            var v = Math.Clamp(values[i], spec.Min ?? -MostMeasure, spec.Max ?? MostMeasure);
            held[i] = spec.Whole ? Math.Round(v, MidpointRounding.AwayFromZero) : v;
        }
        while (held.Length > 0 && VerticesOf(held) > MostVertices)
        {
            for (var i = 0; i < held.Length; i++)
            {
                if (Channels[i].Whole)
                {
                    held[i] = Math.Max(Channels[i].Min ?? 0, Math.Floor(held[i] / 2));
                }
            }
        }
    }

    /// <exception cref="Refusal">A number is not what it may be, or there are too many divisions.</exception>
    internal virtual void Validate(string owner)
    {
        var numbers = Numbers;
        for (var i = 0; i < numbers.Length; i++)
        {
            var (spec, number) = (Channels[i], numbers[i]);
            var (min, max) = (spec.Min ?? -MostMeasure, spec.Max ?? MostMeasure);
            if (number >= min && number <= max)
            {
                continue;
            }
            var said = number.ToString(CultureInfo.InvariantCulture);
            throw new Refusal(spec.Whole
                ? $"The shape of “{owner}” has {said} {spec.Label.ToLowerInvariant()}: use {min} to {max} divisions."
                : $"A measure of the shape of “{owner}” is {said} ({spec.Label.ToLowerInvariant()}): give it a number from {Said(min)} to {Said(max)}.");
        }
        CheckVertices(owner, VertexCount);
    }

    internal static void CheckVertices(string owner, long vertices)
    {
        if (vertices > MostVertices)
        {
            throw new Refusal($"The shape of “{owner}” would have {vertices} vertices, more than the {MostVertices} that a shape can have: give it fewer divisions.");
        }
    }

    /// <summary>The largest length of a shape, in metres.</summary>
    private protected const double MostMeasure = 1e6;

    private protected static ChannelSpec Length(string name, string label, double usual) => new(name, label, ChannelFamily.Shape, "m", usual, 0, MostMeasure);

    private protected static ChannelSpec Place(string name, string label) => new(name, label, ChannelFamily.Shape, "m", 0);

    private protected static ChannelSpec SectorSpec => new("sector", "Sector", ChannelFamily.Shape, "°", 360, 0, 360, 0.5);

    private protected static ChannelSpec Count(string name, string label, double usual, double min = 1) =>
        new(name, label, ChannelFamily.Shape, "", usual, min, 1024, 0.2, Whole: true);

    private static string Said(double bound) => Math.Abs(bound) == MostMeasure ? $"{(bound < 0 ? "minus " : "")}a million" : bound.ToString(CultureInfo.InvariantCulture);
}
