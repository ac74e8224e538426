using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Wire;
using MessagePack;

namespace Bradymotus.Core.Tests;

/// <summary>
/// What goes between the page and the engine says the same as the JSON. The other side is the library MessagePack for C#
/// (github.com/MessagePack-CSharp), which turns JSON into MessagePack and back.
/// </summary>
public partial class WireTests
{
    /// <summary>Fails unless both ways over the wire are what JSON has.</summary>
    internal static void Same(JournalEntry entry)
    {
        var json = ShotJson.Write(entry);
        var there = JsonNode.Parse(MessagePackSerializer.ConvertToJson(Packed.Write(entry)));
        Assert.True(JsonNode.DeepEquals(JsonNode.Parse(json), there), $"{json}\n{there!.ToJsonString()}");
        var back = Packed.ReadJournalEntry(MessagePackSerializer.ConvertFromJson(json), "entry");
        // The other library reads −0 as a whole number, which has no sign.
        Assert.Equal(NegativeZero().Replace(json, "0"), NegativeZero().Replace(ShotJson.Write(back), "0"));
    }

    [GeneratedRegex(@"(?<=[:,\[])-0(?=[,}\]])")]
    private static partial Regex NegativeZero();

    [Fact]
    public void Any_shot_is_the_same_over_the_wire() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shot = some.Shot();
        for (var i = 0; i < 4; i++)
        {
            try
            {
                shot = some.Edit(shot).Apply(shot);
            }
            catch (Refusal)
            {
                // Some edits make no sense.
            }
        }
        Same(new EditEntry(new ReplaceShot(shot, "all of it")) { Id = "x" });
        Assert.Equal(ShotJson.Write(shot), ShotJson.Write(Packed.ReadShot(Packed.Write(shot), "shot")));
    }, 300);

    [Fact]
    public void Everything_that_is_not_plain_comes_over()
    {
        var offset = Affine.From([0, 0, -1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0.1, 2, 3, 1]);
        Shape[] shapes = [new BoxShape(1, 2, 3, 4), new SphereShape(2, 6, 4), new CylinderShape(0.1, 0.2, 3, 12, 2), new TorusShape(1, 0.3, 6, 5), new PlaneShape(3, 4, 5)];
        Same(new EditEntry(new AddNodes(
            [
                .. shapes.Select((s, i) => new MeshNode { Id = $"m{i}", Name = "Мачта ⛵", Shape = s, Material = "paint", Parent = "g", Offset = offset, RotationOrder = RotationOrder.Zyx, Locked = true }),
                new CameraNode { Id = "c", Name = new string('x', 300), Projection = Projection.Orthographic },
            ],
            [new("paint", "Paint", Shots.Crane().Nodes[0].Channels)],
            2)));
        Same(new RestoreEntry(3) { Id = "r" });
        Same(new LeaveOutEntry(70_000));
    }

    [Fact]
    public void Views_say_null_where_there_is_nothing()
    {
        var outcome = JsonNode.Parse(MessagePackSerializer.ConvertToJson(Packed.Write(new Outcome())))!.AsObject();
        Assert.Equal(["refusal", "entry"], outcome.Select(p => p.Key));
        Assert.All(outcome, p => Assert.Null(p.Value));
        var scene = JsonNode.Parse(MessagePackSerializer.ConvertToJson(Packed.Write(SceneView.Of(new CompiledShot(Shots.Crane().Keyed("base/visible", (0, 1)))))))!;
        var top = Assert.Single(scene["nodes"]!.AsArray(), n => n!.AsObject().ContainsKey("parent") && n["parent"] is null);
        Assert.False(top!["data"]!.AsObject().ContainsKey("parent"));
        Assert.NotEmpty(scene["keys"]!.AsObject());
    }

    [Fact]
    public void Bytes_that_are_damaged_are_refused_in_a_sentence() => Laws.ForSeeds((dice, _) =>
    {
        var bytes = Packed.Write(new EditEntry(new ReplaceShot(new SomeShots(dice).Shot(), "x")));
        for (var i = dice.Next(1, 4); i > 0; i--)
        {
            bytes[dice.Next(bytes.Length)] = (byte)dice.Next(256);
        }
        if (dice.Next(2) == 0)
        {
            bytes = bytes[..dice.Next(bytes.Length)];
        }
        try
        {
            Packed.ReadJournalEntry(bytes, "entry");
        }
        catch (Refusal refusal)
        {
            Assert.DoesNotContain(refusal.Message, char.IsControl);
        }
    });

    [Theory]
    [InlineData("""{"kind":"setValues"}""", "without “values”")]
    [InlineData("""{"values":[]}""", "without “kind”")]
    [InlineData("""{"kind":"conjure"}""", "“conjure”, which is not known")]
    [InlineData("""{"kind":"con\njure\u0007"}""", "“con jure ”, which is not known")]
    [InlineData("""{"kind":"restore","revision":1.5}""", "a whole number")]
    [InlineData("""[]""", "expected an object")]
    [InlineData("""{"kind":"edit","edit":{"kind":"setSegments","keys":[],"segment":"wavy"}}""", "“wavy”, which is not known")]
    public void What_is_missing_or_unknown_is_named(string json, string part)
    {
        var bytes = MessagePackSerializer.ConvertFromJson(json);
        var kinds = json.Contains("setValues", StringComparison.Ordinal);
        var refusal = Assert.Throws<Refusal>(() => kinds ? Packed.ReadEdit(bytes, "edit") : (object)Packed.ReadJournalEntry(bytes, "edit"));
        Assert.Contains(part, refusal.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Numbers_that_are_not_finite_lists_without_end_and_depths_are_refused()
    {
        var edit = MessagePackSerializer.ConvertFromJson("""{"kind":"setKeys","frame":0.5,"values":[]}""");
        var at = Array.IndexOf(edit, (byte)0xcb);
        foreach (var (high, low) in new[] { (0x7f, 0xf8), (0x7f, 0xf0), (0xff, 0xf0) })
        {
            (edit[at + 1], edit[at + 2]) = ((byte)high, (byte)low);
            Assert.Contains("not finite", Assert.Throws<Refusal>(() => Packed.ReadEdit(edit, "edit")).Message, StringComparison.Ordinal);
        }
        // A list of four thousand million, in five bytes.
        Assert.Contains("cut off", Assert.Throws<Refusal>(() => Packed.ReadTexts([0xdd, 0xff, 0xff, 0xff, 0xff], "ids")).Message, StringComparison.Ordinal);
        var deep = new StringBuilder();
        deep.Insert(0, """{"kind":"batch","label":"","edits":[""", 100).Insert(deep.Length, "]}", 100);
        Assert.Contains("deep", Assert.Throws<Refusal>(() => Packed.ReadEdit(MessagePackSerializer.ConvertFromJson(deep.ToString()), "edit")).Message, StringComparison.Ordinal);
    }
}
