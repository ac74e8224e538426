using FsCheck;
using FsCheck.Fluent;

namespace Bradymotus.Tests;

/// <summary>
/// Laws that hold for every input: each is tried on many inputs that are the same in every run, and on fresh ones. A failure
/// names the seed; BRADYMOTUS_SEED=… tries that one alone.
/// </summary>
internal static class Laws
{
    /// <param name="fresh">So many fresh inputs; a tenth of the others without it, and at least 20.</param>
    internal static void Hold(Property law, int many = 1000, int? fresh = null)
    {
        Check.One(Config.QuickThrowOnFailure.WithMaxTest(many).WithReplay(20_26, 11), law);
        Check.One(Config.QuickThrowOnFailure.WithMaxTest(fresh ?? Math.Max(20, many / 10)), law);
    }

    /// <summary>For inputs that are thrown by dice.</summary>
    internal static void ForSeeds(Action<System.Random, int> law, int many = 1000, int? fresh = null)
    {
        if (int.TryParse(Environment.GetEnvironmentVariable("BRADYMOTUS_SEED"), out var only))
        {
            law(new System.Random(only), only);
            return;
        }
        Hold(Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
        {
            try
            {
                law(new System.Random(seed), seed);
            }
            catch (Exception e)
            {
                throw new InvalidOperationException($"Seed {seed}: {e.Message}", e);
            }
        }), many, fresh);
    }
}
