using System.Text.Json.Serialization;

namespace Bradymotus.Core.Geometry;

/// <summary>A basic shape, in metres, standing round the origin. A new kind is one record and its <see cref="Build"/>.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(BoxShape), "box")]
[JsonDerivedType(typeof(SphereShape), "sphere")]
[JsonDerivedType(typeof(CylinderShape), "cylinder")]
[JsonDerivedType(typeof(TorusShape), "torus")]
[JsonDerivedType(typeof(PlaneShape), "plane")]
[JsonDerivedType(typeof(AssetShape), "asset")]
public abstract record Shape
{
    /// <summary>The most vertices of one shape: more would not be moved in time by anything that bends them.</summary>
    public const int MostVertices = 2_000_000;

    /// <summary>The triangles. The same shape gives the same mesh.</summary>
    public abstract Mesh Build();

    /// <summary>How many vertices <see cref="Build"/> makes, worked out without making them.</summary>
    [JsonIgnore]
    public abstract long VertexCount { get; }

    /// <exception cref="Refusal">A measure is not a positive finite number, or there are too many divisions.</exception>
    internal abstract void Validate(string owner);

    private protected static void Check(string owner, params ReadOnlySpan<double> measures)
    {
        foreach (var m in measures)
        {
            if (!(m >= 0 && m <= 1e6))
            {
                throw new Refusal($"A measure of the shape of “{owner}” is {m.ToString(System.Globalization.CultureInfo.InvariantCulture)}: give it a number of metres from 0 to a million.");
            }
        }
    }

    private protected static void CheckDivisions(string owner, params ReadOnlySpan<int> divisions)
    {
        foreach (var d in divisions)
        {
            if (d is < 1 or > 1024)
            {
                throw new Refusal($"The shape of “{owner}” is divided into {d}: use 1 to 1024 divisions.");
            }
        }
    }

    private protected void CheckVertices(string owner)
    {
        if (VertexCount > MostVertices)
        {
            throw new Refusal($"The shape of “{owner}” would have {VertexCount} vertices, more than the {MostVertices} that a shape can have: give it fewer divisions.");
        }
    }
}

/// <summary>A box. Faces are divided evenly, so that it can be bent.</summary>
public sealed record BoxShape(double Width = 1, double Height = 1, double Depth = 1, int Divisions = 1) : Shape
{
    [JsonIgnore]
    public override long VertexCount => 6L * (Divisions + 1) * (Divisions + 1);

    public override Mesh Build()
    {
        var grid = new GridBuilder(VertexCount);
        var (x, y, z) = (Width / 2, Height / 2, Depth / 2);
        var n = Divisions;
        // Each face is spanned by two axes whose cross product points outwards.
        grid.Patch(n, n, (u, v) => (new(x, v * y, -u * z), new(1, 0, 0)));
        grid.Patch(n, n, (u, v) => (new(-x, v * y, u * z), new(-1, 0, 0)));
        grid.Patch(n, n, (u, v) => (new(u * x, y, -v * z), new(0, 1, 0)));
        grid.Patch(n, n, (u, v) => (new(u * x, -y, v * z), new(0, -1, 0)));
        grid.Patch(n, n, (u, v) => (new(u * x, v * y, z), new(0, 0, 1)));
        grid.Patch(n, n, (u, v) => (new(-u * x, v * y, -z), new(0, 0, -1)));
        return grid.ToMesh();
    }

    internal override void Validate(string owner)
    {
        Check(owner, Width, Height, Depth);
        CheckDivisions(owner, Divisions);
        CheckVertices(owner);
    }
}

/// <summary>A ball of latitudes and longitudes.</summary>
public sealed record SphereShape(double Radius = 0.5, int Segments = 48, int Rings = 24) : Shape
{
    [JsonIgnore]
    public override long VertexCount => (Segments + 1L) * (Rings + 1);

    public override Mesh Build() => GridBuilder.Revolve(Segments, Rings, v =>
    {
        var (s, c) = Numerics.Real.SinCosDegrees(180 * v - 90);
        return (new(Radius * c, Radius * s), new(c, s));
    });

    internal override void Validate(string owner)
    {
        Check(owner, Radius);
        CheckDivisions(owner, Segments, Rings);
    }
}

/// <summary>A cylinder, or a cone where a radius is 0, with caps.</summary>
public sealed record CylinderShape(double Radius = 0.5, double TopRadius = 0.5, double Height = 1, int Segments = 48, int Rings = 1) : Shape
{
    [JsonIgnore]
    public override long VertexCount => (Segments + 1L) * (Rings + 5);

    public override Mesh Build()
    {
        var half = Height / 2;
        var slant = new Numerics.Double3(Height, Radius - TopRadius, 0).Normalized();
        var grid = new GridBuilder(VertexCount);
        grid.Ring(Segments, Rings, v => (new(Radius + (TopRadius - Radius) * v, -half + Height * v), new(slant.X, slant.Y)));
        grid.Ring(Segments, 1, v => (new(Radius * v, -half), new(0, -1)));
        grid.Ring(Segments, 1, v => (new(TopRadius * (1 - v), half), new(0, 1)));
        return grid.ToMesh();
    }

    internal override void Validate(string owner)
    {
        Check(owner, Radius, TopRadius, Height);
        CheckDivisions(owner, Segments, Rings);
    }
}

/// <summary>A ring lying flat.</summary>
public sealed record TorusShape(double Radius = 0.5, double Tube = 0.15, int Segments = 64, int Rings = 24) : Shape
{
    [JsonIgnore]
    public override long VertexCount => (Segments + 1L) * (Rings + 1);

    public override Mesh Build() => GridBuilder.Revolve(Segments, Rings, v =>
    {
        var (s, c) = Numerics.Real.SinCosDegrees(360 * v - 180);
        return (new(Radius + Tube * c, Tube * s), new(c, s));
    });

    internal override void Validate(string owner)
    {
        Check(owner, Radius, Tube);
        CheckDivisions(owner, Segments, Rings);
    }
}

/// <summary>A flat rectangle facing up.</summary>
public sealed record PlaneShape(double Width = 10, double Depth = 10, int Divisions = 1) : Shape
{
    [JsonIgnore]
    public override long VertexCount => (Divisions + 1L) * (Divisions + 1);

    public override Mesh Build()
    {
        var grid = new GridBuilder(VertexCount);
        grid.Patch(Divisions, Divisions, (u, v) => (new(u * Width / 2, 0, -v * Depth / 2), new(0, 1, 0)));
        return grid.ToMesh();
    }

    internal override void Validate(string owner)
    {
        Check(owner, Width, Depth);
        CheckDivisions(owner, Divisions);
    }
}
