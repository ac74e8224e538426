using System.Collections.Immutable;
using System.Globalization;
using System.Numerics;
using System.Xml;
using System.Xml.Linq;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using SkiaSharp;

namespace Bradymotus.Formats.Outlines;

/// <summary>SVG 2, its shapes as outlines that are made thick. Nothing in the file is run, and nothing that it refers to outside is fetched.</summary>
internal sealed class SvgReader
{
    private const int MostDepth = 64, MostShapes = 2000;

    // Elements that refer to others may be many times what the file holds.
    private const int MostVisits = 100_000;

    // The larger side of a drawing, in metres: what a drawing's units mean in the world is not said in it.
    private const double Side = 2;

    private readonly string _name;
    private readonly List<(string Name, SKPath Path, Vector4 Colour)> _shapes = [];
    private readonly HashSet<string> _skipped = [];
    private Dictionary<string, XElement> _byId = [];
    private SvgStyles? _styles;
    private int _visits;

    private SvgReader(string name) => _name = name;

    internal static Imported Read(SourceFiles files, ImportOptions options) => new SvgReader(files.Name).Read(files.Read(), options);

    private Imported Read(byte[] bytes, ImportOptions options)
    {
        XElement root;
        try
        {
            // A document type could define entities that grow without end, or fetch files.
            var settings = new XmlReaderSettings { DtdProcessing = DtdProcessing.Ignore, XmlResolver = null, MaxCharactersInDocument = 64 << 20, MaxCharactersFromEntities = 1024 };
            using var reader = XmlReader.Create(new MemoryStream(bytes), settings);
            root = XDocument.Load(reader).Root!;
        }
        catch (XmlException e)
        {
            throw new Refusal($"{_name} cannot be read as SVG at line {Math.Max(1, e.LineNumber)}: {e.Message.TrimEnd('.')}.", e);
        }
        if (root.Name.LocalName != "svg")
        {
            throw new Refusal($"{_name} cannot be read as SVG: it begins with “{root.Name.LocalName}”, not with “svg”.");
        }
        _byId = root.Descendants().Where(e => e.Attribute("id") is not null).GroupBy(e => e.Attribute("id")!.Value).ToDictionary(g => g.Key, g => g.First());
        _styles = new(root);
        if (_styles.HasOthers)
        {
            _skipped.Add("Style rules that depend on where an element stands were left out: only those by name, class and id are taken.");
        }
        Walk(root, SKMatrix.Identity, new("black", "none", "black", 1, false, 1, 1, 1), 0);
        var bounds = _shapes.Aggregate(SKRect.Empty, (b, s) => b.IsEmpty ? s.Path.TightBounds : SKRect.Union(b, s.Path.TightBounds));
        var size = Math.Max(bounds.Width, bounds.Height);
        if (_shapes.Count == 0 || !(size > 0 && float.IsFinite(size)))
        {
            throw new Refusal($"{_name} holds no outlines that enclose anything: give its shapes a fill or a stroke.");
        }
        return ToImported(bounds, Side / size, options);
    }

    private Imported ToImported(SKRect bounds, double scale, ImportOptions options)
    {
        var names = new NodeNames();
        var nodes = new List<Node>();
        var materials = new Dictionary<Vector4, Material>();
        foreach (var (name, path, colour) in _shapes)
        {
            var own = path.TightBounds;
            var data = OutlineData.Write(path, SKMatrix.CreateTranslation(-own.MidX, -own.MidY).PostConcat(SKMatrix.CreateScale((float)scale, (float)-scale)));
            var taken = names.Take(name, "Outline");
            var shape = new OutlineShape(data, Depth: Math.Round(Side / 20, 3));
            try
            {
                if (data.Length == 0)
                {
                    throw new Refusal("it encloses nothing.");
                }
                _ = shape.VertexCount;
            }
            catch (Refusal r)
            {
                _skipped.Add($"{taken} was left out: {r.Message}");
                continue;
            }
            if (!materials.TryGetValue(colour, out var material))
            {
                materials.Add(colour, material = new($"look-{materials.Count}", $"Colour {materials.Count + 1}", Look(colour)));
            }
            nodes.Add(new MeshNode
            {
                Id = $"outline-{nodes.Count}",
                Name = taken,
                Shape = shape,
                Material = material.Id,
                Channels = ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal,
                [
                    KeyValuePair.Create("transform.translate.x", new Channel((own.MidX - bounds.MidX) * scale)),
                    KeyValuePair.Create("transform.translate.y", new Channel((bounds.Bottom - own.MidY) * scale)),
                    // What is painted later stands a little before what is painted earlier.
                    KeyValuePair.Create("transform.translate.z", new Channel(0.002 * nodes.Count)),
                ]),
            });
        }
        if (nodes.Count == 0)
        {
            throw new Refusal($"{_name} holds no outlines that could be taken. {_skipped.FirstOrDefault()}");
        }
        var shot = Shot.Empty(NodeNames.Clean(Path.GetFileNameWithoutExtension(_name), "Imported")) with { Rate = options.Usual, Nodes = [.. nodes], Materials = [.. materials.Values] };
        ShotRules.Validate(shot);
        var imported = new[] { $"{nodes.Count} {(nodes.Count == 1 ? "outline" : "outlines")}, the larger side of all {Side} m",
            $"{materials.Count} {(materials.Count == 1 ? "material" : "materials")}" };
        return new(shot, [], new(imported, [.. _skipped]));
    }

    private readonly record struct Paint(string Fill, string Stroke, string Current, double Width, bool EvenOdd, double Opacity, double FillOpacity, double StrokeOpacity);

    private void Walk(XElement element, SKMatrix map, Paint paint, int depth)
    {
        if (depth > MostDepth)
        {
            throw new Refusal($"{_name} is nested more than {MostDepth} deep, or refers to itself: flatten it.");
        }
        if (++_visits > MostVisits)
        {
            throw new Refusal($"{_name} draws more than {MostVisits} things, many of them again and again: flatten it.");
        }
        string? Own(string what) => _styles!.Of(element, what);
        double Part(string what, double otherwise) => Own(what) is { } text && double.TryParse(text.TrimEnd('%'), NumberStyles.Float, CultureInfo.InvariantCulture, out var part)
            ? Math.Clamp(text.EndsWith('%') ? part / 100 : part, 0, 1) : otherwise;
        if (Own("display") == "none" || Own("visibility") == "hidden")
        {
            return;
        }
        if (element.Attribute("transform")?.Value is { } transform)
        {
            map = SvgTransform.Parse(transform, _name).PostConcat(map);
        }
        paint = new(Own("fill") is { } f && f != "inherit" ? f : paint.Fill, Own("stroke") is { } s && s != "inherit" ? s : paint.Stroke,
            Own("color") is { } c && c != "inherit" ? c : paint.Current, Own("stroke-width") is { } w ? Length(w) : paint.Width, Own("fill-rule") is { } rule ? rule == "evenodd" : paint.EvenOdd,
            paint.Opacity * Part("opacity", 1), Part("fill-opacity", paint.FillOpacity), Part("stroke-opacity", paint.StrokeOpacity));
        switch (element.Name.LocalName)
        {
            case "svg" or "g" or "a" or "switch":
                foreach (var child in element.Elements())
                {
                    Walk(child, map, paint, depth + 1);
                }
                break;
            case "use":
                var target = (element.Attribute("href") ?? element.Attribute(XName.Get("href", "http://www.w3.org/1999/xlink")))?.Value;
                if (target is ['#', .. var id] && _byId.TryGetValue(id, out var used))
                {
                    Walk(used, SKMatrix.CreateTranslation((float)Number(element, "x"), (float)Number(element, "y")).PostConcat(map), paint, depth + 1);
                }
                else
                {
                    _skipped.Add($"“{target}” was left out: it is not in the file.");
                }
                break;
            case "style":
                break;
            case "text" or "image" or "foreignObject" or "script" or "filter" or "mask" or "clipPath" or "linearGradient" or "radialGradient" or "pattern":
                if (element.Name.LocalName is not ("linearGradient" or "radialGradient"))
                {
                    _skipped.Add($"What is a “{element.Name.LocalName}” was left out: only outlines are taken{(element.Name.LocalName == "text" ? "; make paths of words first" : "")}.");
                }
                break;
            default:
                using (var path = PathOf(element))
                {
                    if (path is not null)
                    {
                        Add(element, path, map, paint);
                    }
                }
                break;
        }
    }

    private void Add(XElement element, SKPath path, SKMatrix map, Paint paint)
    {
        path.FillType = paint.EvenOdd ? SKPathFillType.EvenOdd : SKPathFillType.Winding;
        var name = NodeNames.Clean(element.Attribute("id")?.Value ?? element.Elements().FirstOrDefault(e => e.Name.LocalName == "title")?.Value, "Outline");
        if (paint.Fill != "none")
        {
            Keep(name, new SKPath(path), paint.Fill, paint.Opacity * paint.FillOpacity);
        }
        if (paint.Stroke != "none" && paint.Width > 0)
        {
            using var pen = new SKPaint { Style = SKPaintStyle.Stroke, StrokeWidth = (float)paint.Width };
            using var stroked = new SKPathBuilder();
            if (pen.GetFillPath(path, stroked))
            {
                Keep(paint.Fill != "none" ? $"{name} stroke" : name, stroked.Detach(), paint.Stroke, paint.Opacity * paint.StrokeOpacity);
            }
        }

        void Keep(string called, SKPath outline, string colour, double opacity)
        {
            if (_shapes.Count >= MostShapes)
            {
                throw new Refusal($"{_name} has more than {MostShapes} outlines: join some of them.");
            }
            outline.Transform(map);
            if (outline.TightBounds is { Width: > 0, Height: > 0 } box && float.IsFinite(box.Width + box.Height))
            {
                var look = ColourOf(colour, paint.Current);
                _shapes.Add((called, outline, look with { W = look.W * (float)opacity }));
            }
        }
    }

    private SKPath? PathOf(XElement e)
    {
        using var path = new SKPathBuilder();
        switch (e.Name.LocalName)
        {
            case "path":
                return e.Attribute("d")?.Value is { Length: > 0 } d && SKPath.ParseSvgPathData(d) is { } parsed ? parsed : Left();
            case "rect":
                var (rx, ry) = (Number(e, "rx", double.NaN), Number(e, "ry", double.NaN));
                (rx, ry) = (double.IsNaN(rx) ? double.IsNaN(ry) ? 0 : ry : rx, double.IsNaN(ry) ? double.IsNaN(rx) ? 0 : rx : ry);
                path.AddRoundRect(SKRect.Create((float)Number(e, "x"), (float)Number(e, "y"), (float)Number(e, "width"), (float)Number(e, "height")), (float)rx, (float)ry);
                return path.Detach();
            case "circle":
                path.AddCircle((float)Number(e, "cx"), (float)Number(e, "cy"), (float)Number(e, "r"));
                return path.Detach();
            case "ellipse":
                var (cx, cy, a, b) = ((float)Number(e, "cx"), (float)Number(e, "cy"), (float)Number(e, "rx"), (float)Number(e, "ry"));
                path.AddOval(new(cx - a, cy - b, cx + a, cy + b));
                return path.Detach();
            case "polygon" or "polyline":
                var numbers = (e.Attribute("points")?.Value ?? "").Split([' ', ',', '\t', '\r', '\n'], StringSplitOptions.RemoveEmptyEntries).Select(Length).ToList();
                if (numbers.Count < 4 || numbers.Count > 40_000)
                {
                    return Left();
                }
                path.AddPoly([.. Enumerable.Range(0, numbers.Count / 2).Select(i => new SKPoint((float)numbers[2 * i], (float)numbers[2 * i + 1]))], e.Name.LocalName == "polygon");
                return path.Detach();
            case "line":
                path.MoveTo((float)Number(e, "x1"), (float)Number(e, "y1"));
                path.LineTo((float)Number(e, "x2"), (float)Number(e, "y2"));
                return path.Detach();
            default:
                return null;
        }

        SKPath? Left()
        {
            _skipped.Add($"A {e.Name.LocalName}{(e.Attribute("id") is { } id ? $" “{id.Value}”" : "")} was left out: it has no points that can be read.");
            return null;
        }
    }

    private double Number(XElement element, string name, double otherwise = 0) => element.Attribute(name)?.Value is { } text && text != "auto" ? Length(text) : otherwise;

    /// <summary>A number with px or nothing behind it; of other units as many px as CSS says.</summary>
    private double Length(string text)
    {
        text = text.Trim();
        var digits = text.TrimEnd([.. "%abcdfghijklmnopqrstuvwxyz"]);
        var unit = text[digits.Length..] switch { "in" => 96, "cm" => 96 / 2.54, "mm" => 9.6 / 2.54, "pt" => 96.0 / 72, "pc" => 16, _ => 1.0 };
        return double.TryParse(digits, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && Math.Abs(number) < 1e7
            ? number * unit
            : throw new Refusal($"{_name} holds “{(text.Length > 40 ? text[..40] + "…" : text)}” where a number of up to ten million belongs: mend the drawing.");
    }

    /// <summary>What something is painted with: a colour, or the mean of a gradient.</summary>
    private Vector4 ColourOf(string paint, string current)
    {
        if (paint == "currentColor")
        {
            paint = current;
        }
        if (paint.StartsWith("url(", StringComparison.Ordinal))
        {
            var id = paint[4..].Split(')')[0].Trim(' ', '"', '\'').TrimStart('#');
            if (_byId.TryGetValue(id, out var gradient) && MeanOf(gradient, current, 0) is { } mean)
            {
                _skipped.Add($"The gradient “{id}” became one colour, its mean.");
                return mean;
            }
            // What may be said behind it is for this case.
            var instead = paint.IndexOf(')', StringComparison.Ordinal) is >= 0 and var end ? paint[(end + 1)..].Trim() : "";
            if (instead.Length > 0 && SvgColour.Parse(instead) is { } other)
            {
                return other;
            }
            _skipped.Add($"What is painted with “{id}” became grey: it is no gradient that is known.");
            return Grey;
        }
        if (SvgColour.Parse(paint) is { } colour)
        {
            return colour;
        }
        _skipped.Add($"The colour “{(paint.Length > 40 ? paint[..40] + "…" : paint)}” is not known: what has it became grey.");
        return Grey;
    }

    private static Vector4 Grey { get; } = new(0.2158605f, 0.2158605f, 0.2158605f, 1);

    /// <summary>The mean of the stops of a gradient, each as wide as it reaches to its neighbours; null where there are none.</summary>
    private Vector4? MeanOf(XElement gradient, string current, int depth)
    {
        var stops = gradient.Elements().Where(e => e.Name.LocalName == "stop").Take(1000).Select(e =>
        {
            var text = _styles!.Of(e, "offset") ?? "0";
            var at = float.TryParse(text.TrimEnd('%'), NumberStyles.Float, CultureInfo.InvariantCulture, out var o) ? text.EndsWith('%') ? o / 100 : o : 0;
            var opacity = float.TryParse(_styles.Of(e, "stop-opacity") ?? "1", NumberStyles.Float, CultureInfo.InvariantCulture, out var part) ? Math.Clamp(part, 0, 1) : 1;
            var named = _styles.Of(e, "stop-color") ?? "black";
            var colour = SvgColour.Parse(named == "currentColor" ? current : named) ?? Grey;
            return (At: Math.Clamp(at, 0, 1), Colour: colour with { W = colour.W * opacity });
        }).OrderBy(s => s.At).ToList();
        if (stops.Count == 0)
        {
            var target = (gradient.Attribute("href") ?? gradient.Attribute(XName.Get("href", "http://www.w3.org/1999/xlink")))?.Value;
            return depth < 16 && target is ['#', .. var id] && _byId.TryGetValue(id, out var other) ? MeanOf(other, current, depth + 1) : null;
        }
        var sum = stops[0].Colour * stops[0].At + stops[^1].Colour * (1 - stops[^1].At);
        for (var i = 0; i + 1 < stops.Count; i++)
        {
            sum += (stops[i].Colour + stops[i + 1].Colour) / 2 * (stops[i + 1].At - stops[i].At);
        }
        return sum;
    }

    private static ImmutableSortedDictionary<string, Channel> Look(Vector4 colour)
    {
        static Channel Of(float v) => new(Math.Round(v, 5));
        var look = ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal,
        [
            KeyValuePair.Create("look.color.r", Of(colour.X)), KeyValuePair.Create("look.color.g", Of(colour.Y)), KeyValuePair.Create("look.color.b", Of(colour.Z)),
        ]);
        return colour.W < 1 ? look.Add("look.opacity", Of(colour.W)) : look;
    }
}
