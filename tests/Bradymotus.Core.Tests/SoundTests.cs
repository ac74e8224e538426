using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

public class SoundTests
{
    private static readonly Sound Bell = new("bell", "Bell", new string('a', 64), 2.5, 12);

    private static readonly Shot Shot = new PutSound(Bell).Apply(Crane());

    [Fact]
    public void A_sound_is_put_changed_and_removed_and_keeps_its_level()
    {
        Assert.Equal([Bell], Shot.Sounds);
        var keyed = new SetKeys(4, [new(At("bell/level"), 0.5)]).Apply(Shot);
        var edit = new PutSound(Bell with { Start = 30 });
        Assert.Equal("Move the sound Bell", edit.Describe(keyed));
        var moved = edit.Apply(keyed);
        Assert.Equal((30, 0.5), (moved.Sounds[0].Start, moved.Channel(At("bell/level")).Evaluate(0)));
        Assert.Equal("Mute the sound Bell", new PutSound(Bell with { Muted = true }).Describe(keyed));
        Assert.Equal("Add the sound Horn", new PutSound(Bell with { Id = "horn", Name = "Horn" }).Describe(keyed));
        var removed = new RemoveSounds(["bell"]).Apply(moved);
        Assert.Empty(removed.Sounds);
        Assert.Contains("may have been removed", Assert.Throws<Refusal>(() => new RemoveSounds(["bell"]).Apply(removed)).Message);
    }

    [Fact]
    public void Its_level_is_a_channel_that_is_evaluated_like_any_and_can_lie_in_a_layer()
    {
        var shot = Shot.Keyed("bell/level", (0, 0), (10, 1));
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(10);
        Assert.Equal(1, state.Value(At("bell/level")));
        Assert.Equal("Bell · Level", Names.Of(shot, At("bell/level")));
        var layered = (shot with { Layers = [new("l", "L")] }).Keyed("bell/level@l", (0, -0.25));
        var patched = new CompiledShot(layered, new CompiledShot(shot));
        state.Show(patched);
        state.Evaluate(10);
        Assert.Equal(0.75, state.Value(At("bell/level")));
        Assert.Equal(0.75, new BakeLayers().Apply(layered).Channel(At("bell/level")).Evaluate(10), 1e-12);
    }

    [Fact]
    public void Files_have_sounds_and_another_rate_leaves_them_at_their_time()
    {
        var json = ShotJson.Write(Shot);
        Assert.Contains($"\"sounds\":[{{\"id\":\"bell\",\"name\":\"Bell\",\"asset\":\"{Bell.Asset}\",\"seconds\":2.5,\"start\":12}}]", json, StringComparison.Ordinal);
        Assert.Equal(json, ShotJson.Write(ShotJson.ReadShot(json)));
        Assert.Equal(24, new ConvertRate(new FrameRate(48)).Apply(Shot).Sounds[0].Start);
    }

    public static TheoryData<Sound, string> Wrong() => new()
    {
        { Bell with { Id = "hook" }, "used twice" },
        { Bell with { Id = "steel" }, "used twice" },
        { Bell with { Id = "world" }, "used twice" },
        { Bell with { Id = "a/b" }, "cannot be used" },
        { Bell with { Name = "" }, "is empty" },
        { Bell with { Asset = "bell.wav" }, "64 hexadecimal digits" },
        { Bell with { Seconds = 0 }, "cannot be 0 seconds long" },
        { Bell with { Seconds = double.NaN }, "seconds long" },
        { Bell with { Seconds = 1801 }, "up to 1800 seconds" },
        { Bell with { Start = double.PositiveInfinity }, "from frame" },
    };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void What_no_sound_can_be_is_refused(Sound sound, string sentence) =>
        Assert.Contains(sentence, Assert.Throws<Refusal>(() => new PutSound(sound).Apply(Crane())).Message);

    [Fact]
    public void No_more_are_taken_than_anybody_can_tell_apart() => Assert.Contains("32 sounds at most", Assert.Throws<Refusal>(() =>
        Enumerable.Range(0, 33).Aggregate(Crane(), (s, i) => new PutSound(Bell with { Id = $"s{i}" }).Apply(s))).Message);
}
