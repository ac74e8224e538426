using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using Bradymotus.Formats.Outlines;

namespace Bradymotus.Formats.Tests;

/// <summary>SVG, words and outlines put together: areas against those of the figures, from the textbook.</summary>
public sealed class OutlineTests
{
    private const string Square = "M0 0H2V2H0z";

    [Fact]
    public void Shapes_of_an_svg_file_become_outlines_with_their_areas_colours_and_places()
    {
        var imported = Read("""
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 200 100">
              <defs><circle id="dot" r="10"/></defs>
              <g transform="translate(10 0) scale(2)" fill="#ff0000">
                <rect id="plate" x="0" y="0" width="50" height="25"/>
                <path id="ring" fill-rule="evenodd" style="fill: rgb(0, 128, 0)" d="M60 0h20v20h-20zM65 5a5 5 0 1 0 10 0a5 5 0 1 0 -10 0z"/>
              </g>
              <use xlink:href="#dot" x="150" y="80"/>
              <line id="rope" x1="0" y1="90" x2="100" y2="90" stroke="blue" stroke-width="4" fill="none"/>
              <polygon points="0,60 20,60 10,80" fill="none"/>
            </svg>
            """);
        var meshes = imported.Shot.Nodes.Cast<MeshNode>().ToDictionary(m => m.Name);
        Assert.Equal(["dot", "plate", "ring", "rope"], meshes.Keys.Order());
        // From x = 0 to 170 and y = 0 to 92: the larger side is 2 m.
        const double unit = 2.0 / 170;
        Assert.Equal(100 * 50 * unit * unit, Area(meshes["plate"]), 4);
        Assert.Equal((40 * 40 - Math.PI * 100) * unit * unit, Area(meshes["ring"]), 3);
        Assert.Equal(Math.PI * 100 * unit * unit, Area(meshes["dot"]), 3);
        Assert.Equal(100 * 4 * unit * unit, Area(meshes["rope"]), 4);
        double Place(string name, string axis) => meshes[name].Channels![$"transform.translate.{axis}"].Value;
        Assert.Equal((150 - 85) * unit, Place("dot", "x"), 5);
        Assert.Equal((92 - 80) * unit, Place("dot", "y"), 5);
        var red = imported.Shot.FindMaterial(meshes["plate"].Material)!.Channels!;
        Assert.Equal((1, 0), (red["look.color.r"].Value, red["look.color.g"].Value));
        // sRGB 128 is 0.2159 of the light (IEC 61966-2-1).
        Assert.Equal(0.2159, imported.Shot.FindMaterial(meshes["ring"].Material)!.Channels!["look.color.g"].Value, 4);
    }

    [Theory]
    [InlineData("<svg><rect width='1' height='1'", "line 1")]
    [InlineData("<html/>", "html")]
    [InlineData("<svg xmlns='http://www.w3.org/2000/svg'/>", "no outlines")]
    [InlineData("<svg><g id='a'><use href='#a'/></g></svg>", "refers to itself")]
    [InlineData("<svg><rect width='NaN' height='1'/></svg>", "NaN")]
    [InlineData("<svg><rect width='1e30' height='1'/></svg>", "ten million")]
    [InlineData("<svg><rect width='1' height='1' transform='spin(3)'/></svg>", "spin")]
    [InlineData("<!DOCTYPE svg [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;&a;&a;'>]><svg><title>&b;</title></svg>", "cannot be read")]
    public void What_is_no_drawing_or_would_not_end_is_refused_in_a_sentence(string svg, string expected) =>
        Assert.Contains(expected, Assert.Throws<Refusal>(() => Read(svg)).Message, StringComparison.Ordinal);

    [Fact]
    public void What_is_not_an_outline_is_left_out_and_said()
    {
        var imported = Read("<svg><script>alert(1)</script><text>Quay</text><image href='http://quay.test/a.png'/><circle r='3'/><path d='nonsense'/></svg>");
        Assert.Single(imported.Shot.Nodes);
        Assert.Equal(4, imported.Report.Skipped.Count);
        Assert.Contains(imported.Report.Skipped, m => m.Contains("make paths of words", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("<style>.a { fill: #ff0000 }</style><rect class='a b' width='2' height='2'/>", 1, 0, 0, 1)]
    [InlineData("<style>rect { fill: blue } .a { fill: red } /* no */ #x { fill: lime }</style><rect id='x' class='a' width='2' height='2'/>", 0, 1, 0, 1)]
    [InlineData("<style>rect.a, circle { fill: red } .a { fill: blue }</style><rect class='a' width='2' height='2'/>", 1, 0, 0, 1)]
    [InlineData("<style>.a { fill: red }</style><rect class='a' fill='blue' width='2' height='2'/>", 1, 0, 0, 1)]
    [InlineData("<style>.a { fill: red }</style><rect class='a' style='fill:blue' width='2' height='2'/>", 0, 0, 1, 1)]
    [InlineData("<g color='red'><rect fill='currentColor' width='2' height='2'/></g>", 1, 0, 0, 1)]
    [InlineData("<g opacity='0.5'><rect fill='hsl(120, 100%, 50%)' fill-opacity='50%' width='2' height='2'/></g>", 0, 1, 0, 0.25)]
    [InlineData("<rect fill='#ff000080' width='2' height='2'/>", 1, 0, 0, 0.502)]
    [InlineData("<rect fill='rgb(0, 0, 255)' width='2' height='2'/>", 0, 0, 1, 1)]
    [InlineData("<linearGradient id='g'><stop offset='0' stop-color='red'/><stop offset='1' stop-color='blue'/></linearGradient><rect fill='url(#g)' width='2' height='2'/>", 0.5, 0, 0.5, 1)]
    [InlineData("<radialGradient id='h' href='#g'/><linearGradient id='g'><stop offset='50%' style='stop-color:red'/><stop offset='100%' stop-color='red' stop-opacity='0'/></linearGradient><rect fill='url(#h)' width='2' height='2'/>", 1, 0, 0, 0.75)]
    [InlineData("<rect fill='url(#none) red' width='2' height='2'/>", 1, 0, 0, 1)]
    public void Colours_of_styles_and_gradients_are_those_that_are_seen(string drawing, double r, double g, double b, double opacity)
    {
        var material = Assert.Single(Read($"<svg>{drawing}</svg>").Shot.Materials);
        double Of(string path, double otherwise = 0) => material.Channels!.TryGetValue("look." + path, out var c) ? c.Value : otherwise;
        Assert.Equal((r, g, b), (Math.Round(Of("color.r"), 2), Math.Round(Of("color.g"), 2), Math.Round(Of("color.b"), 2)));
        Assert.Equal(opacity, Of("opacity", 1), 2e-3);
    }

    [Theory]
    [InlineData("<linearGradient id='g'><stop stop-color='red'/></linearGradient><rect fill='url(#g)' width='2' height='2'/>", "“g” became one colour")]
    [InlineData("<rect fill='url(#none)' width='2' height='2'/>", "“none” became grey")]
    [InlineData("<rect fill='mauvish' width='2' height='2'/>", "“mauvish” is not known")]
    [InlineData("<style>g > rect { fill: red }</style><rect width='2' height='2'/>", "Style rules that depend")]
    public void What_a_drawing_is_painted_with_and_could_not_be_taken_is_said(string drawing, string expected) =>
        Assert.Contains(Read($"<svg>{drawing}</svg>").Report.Skipped, m => m.Contains(expected, StringComparison.Ordinal));

    /// <summary>Each use doubles the one before: a few lines that would draw a million things.</summary>
    [Fact]
    public void A_drawing_that_uses_itself_again_and_again_is_refused()
    {
        var svg = new StringBuilder("<svg><g id='a0'/>");
        for (var i = 1; i < 30; i++)
        {
            svg.Append($"<g id='a{i}'><use href='#a{i - 1}'/><use href='#a{i - 1}'/></g>");
        }
        Assert.Contains("again and again", Assert.Throws<Refusal>(() => Read(svg.Append("</svg>").ToString())).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Damaged_drawings_are_refused_or_read() => Laws.ForSeeds((dice, _) =>
    {
        var svg = """<svg viewBox="0 0 9 9"><g transform="rotate(10 1 2)"><rect x="1" y="1" width="5" height="5" rx="1"/><path d="M0 0C1 2 3 4 5 0S7 1 8 0zm1 1l2 0 0 2z" stroke="red" stroke-width="2mm"/></g></svg>""".ToCharArray();
        for (var i = dice.Next(1, 4); i > 0; i--)
        {
            svg[dice.Next(svg.Length)] = "<>\"=0z-.eM "[dice.Next(11)];
        }
        try
        {
            Assert.NotEmpty(Read(new string(svg)).Shot.Nodes);
        }
        catch (Refusal)
        {
        }
    }, 400);

    [Fact]
    public void Outlines_put_together_have_the_areas_of_sets()
    {
        double Joined(OutlineJoin how, double dx) => Area(OutlineData.Join([new(Square, [1, 0, 0, 1, 0, 0]), new(Square, [1, 0, 0, 1, dx, 1])], how));
        Assert.Equal(7, Joined(OutlineJoin.Union, 1), 4);
        Assert.Equal(1, Joined(OutlineJoin.Intersect, 1), 4);
        Assert.Equal(3, Joined(OutlineJoin.Cut, 1), 4);
        // A hole, from a square of half the size in the middle.
        Assert.Equal(3, Area(OutlineData.Join([new(Square, [1, 0, 0, 1, 0, 0]), new(Square, [0.5, 0, 0, 0.5, 0.5, 0.5])], OutlineJoin.Cut)), 4);
        // Turned by 45° about its own corner and laid over the same corner: half of a square of side 2 less nothing (x ≥ |…|): the wedge 45°–90°.
        var h = Math.Sqrt(0.5);
        Assert.Equal(2, Area(OutlineData.Join([new(Square, [1, 0, 0, 1, 0, 0]), new("M0 0H4V4H0z", [h, h, -h, h, 0, 0])], OutlineJoin.Intersect)), 4);
        Assert.Contains("do not overlap", Assert.Throws<Refusal>(() => Joined(OutlineJoin.Intersect, 5)).Message, StringComparison.Ordinal);
        Assert.Contains("cover", Assert.Throws<Refusal>(() => Joined2()).Message, StringComparison.Ordinal);
        static string Joined2() => OutlineData.Join([new(Square, [1, 0, 0, 1, 0, 0]), new(Square, [3, 0, 0, 3, -1, -1])], OutlineJoin.Cut);
    }

    [Fact]
    public void Words_stand_on_the_ground_in_every_font_and_holes_stay_holes()
    {
        foreach (var font in Lettering.Fonts)
        {
            var bounds = new OutlineShape(Lettering.Outline("Quay 80", font)).Build().Bounds();
            Assert.InRange(bounds.Max.Y, 0.5, 1);
            Assert.InRange(bounds.Min.Y, -0.35, 0.02);
            Assert.Equal(0, bounds.Min.X + bounds.Max.X, 0.01);
        }
        Assert.InRange(Area(Lettering.Outline("O", "Sans")) / Area(Lettering.Outline("I", "Sans")), 1, 4);
        Assert.True(new OutlineShape(Lettering.Outline("a\nb", "Round")).Build().Bounds().Max.Y > 1.5);
        Assert.NotEmpty(Lettering.Outline("Łódź, Ærø", "Hand"));
        Assert.Contains("“漢”", Assert.Throws<Refusal>(() => Lettering.Outline("漢", "Sans")).Message, StringComparison.Ordinal);
        Assert.Contains("choose one of Sans", Assert.Throws<Refusal>(() => Lettering.Outline("a", "Wingding")).Message, StringComparison.Ordinal);
        Assert.Contains("1 to 200", Assert.Throws<Refusal>(() => Lettering.Outline("  ", "Sans")).Message, StringComparison.Ordinal);
    }

    private static Imported Read(string svg) =>
        Importer.Read(new FilesInMemory("sign.svg", new Dictionary<string, byte[]> { ["sign.svg"] = Encoding.UTF8.GetBytes(svg) }), new(FrameRate.Default));

    private static double Area(MeshNode node) => Area(((OutlineShape)node.Shape).Path);

    /// <summary>Of the front face.</summary>
    private static double Area(string path)
    {
        var mesh = new OutlineShape(path, Depth: 2, CurveSegments: 32).Build();
        var area = 0.0;
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            (double X, double Y, double Z) At(int k) => (mesh.Positions[3 * mesh.Indices[t + k]], mesh.Positions[3 * mesh.Indices[t + k] + 1], mesh.Positions[3 * mesh.Indices[t + k] + 2]);
            var (a, b, c) = (At(0), At(1), At(2));
            area += a.Z > 0.99 && b.Z > 0.99 && c.Z > 0.99 ? ((b.X - a.X) * (c.Y - a.Y) - (b.Y - a.Y) * (c.X - a.X)) / 2 : 0;
        }
        return area;
    }
}
