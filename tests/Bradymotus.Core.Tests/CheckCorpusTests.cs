using Bradymotus.Core.Checks;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Tests;

/// <summary>Of pairs that look alike the one that is right is not named, and what is wrong about the other is.</summary>
public class CheckCorpusTests
{
    /// <summary>A line for each that is named and harmless, and for each that is wrong and missed.</summary>
    private static string Faults(IEnumerable<Twins> corpus) => string.Join('\n', corpus.SelectMany(t => (IEnumerable<string>)[
        .. MotionChecks.Of(t.Harmless).Select(f => $"Named: {t.Right}. {f.Sentence}"),
        .. MotionChecks.Of(t.Wrong).Any(f => f.Kind == t.Kind) ? (string[])[] : [$"Missed: {t}. {string.Join(" ", MotionChecks.Of(t.Wrong).Select(f => f.Sentence))}"]]));

    [Fact]
    public void Nothing_harmless_is_named_and_nothing_wrong_is_missed()
    {
        Assert.True(CheckCorpus.ByHand.Count >= 60, $"{CheckCorpus.ByHand.Count} pairs");
        Assert.All(CheckCorpus.ByHand, t =>
        {
            ShotRules.Validate(t.Harmless);
            ShotRules.Validate(t.Wrong);
        });
        if (Faults(CheckCorpus.ByHand) is { Length: > 0 } faults)
        {
            Assert.Fail(faults);
        }
    }

    /// <summary>As many again, thrown by dice that fall anew in every run: another place, size, rate and time changes nothing of what is right.</summary>
    [Fact]
    public void Wherever_it_is_however_large_and_whenever_it_is_the_same() => Laws.ForSeeds((dice, seed) =>
    {
        if (Faults(CheckCorpus.ByHand.Select(t => CheckCorpus.Thrown(t, dice))) is { Length: > 0 } faults)
        {
            Assert.Fail(faults);
        }
    }, 1, fresh: int.TryParse(Environment.GetEnvironmentVariable("BRADYMOTUS_SEEDS"), out var seeds) ? seeds : 1);
}
