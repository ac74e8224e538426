using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>What poses objects, and puts them in place.</summary>
internal static partial class Bridge
{
    /// <summary>
    /// Sets channels by hand: keys, static values, or values that wait to be keyed.
    /// </summary>
    /// <param name="values">A list of <see cref="ChannelValue"/>.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] Pose(byte[] values, bool autoKey, bool commit, string id) =>
        Answer(() => Posed(Packed.ReadChannelValues(values, "values"), autoKey, commit, id));

    /// <summary>Puts nodes somewhere in the world, as <see cref="Pose"/>.</summary>
    /// <param name="ids">Their ids.</param>
    /// <param name="worlds">Sixteen numbers each, column-major.</param>
    [JSExport]
    internal static byte[] Place(byte[] ids, double[] worlds, bool autoKey, bool commit, string id) => Answer(() =>
        Posed(Open.Place(Packed.ReadTexts(ids, "ids"), worlds), autoKey, commit, id));

    /// <summary>Puts objects in order on the evaluated frame; see <see cref="Arranging"/>.</summary>
    /// <param name="how">align, distribute or drop.</param>
    /// <param name="axis">0, 1, 2 for x, y, z of the world.</param>
    /// <param name="side">For align: −1 the low sides, 0 the middles, 1 the high sides.</param>
    [JSExport]
    internal static byte[] Arrange(byte[] ids, string how, int axis, int side, bool autoKey, string id) => Answer(() =>
        Posed(Open.Arrange(Packed.ReadTexts(ids, "ids"), how, axis, side), autoKey, true, id));

    /// <summary>Moves pivots, the objects staying where they are: to their centre, base, the world's origin, or another object's pivot.</summary>
    /// <param name="where">centre, base, origin, or the id of the other object.</param>
    [JSExport]
    internal static byte[] PivotTo(byte[] ids, string where, string id) => Answer(() => Made(new EditEntry(Open.PivotTo(Packed.ReadTexts(ids, "ids"), where)) { Id = id }));

    /// <summary>Hangs instances of an object below others.</summary>
    /// <param name="where">on, above or beside.</param>
    [JSExport]
    internal static byte[] HangInstances(string of, byte[] on, string where, string prefix, string id) =>
        Answer(() => Made(new EditEntry(Open.HangInstances(of, Packed.ReadTexts(on, "objects"), where, prefix)) { Id = id }));

    /// <summary>The box round objects with all below them: least and most x, y, z; nothing where there is no shape.</summary>
    /// <param name="within">In the space of this node; nothing is the world.</param>
    [JSExport]
    internal static double[] BoundsOf(byte[] ids, string within) => Safely(() => Open.BoundsOf(Packed.ReadTexts(ids, "ids"), within), []);

    /// <summary>Where a new object of a size stands near a point, beside what is there: three numbers, in the space of a node or of the world.</summary>
    [JSExport]
    internal static double[] FreePlace(double[] near, double radius, double height, string within) => Safely(() => Open.FreePlaceNear(near, radius, height, within), []);

    /// <summary>How many vertices and triangles objects have: two numbers for each.</summary>
    [JSExport]
    internal static int[] CountsOf(byte[] ids) => Safely(() => Open.CountsOf(Packed.ReadTexts(ids, "ids")), []);

    /// <summary>Position, rotation (XYZ) and scale of a place in the world: nine numbers.</summary>
    [JSExport]
    internal static double[] TransformAt(double[] world) => Safely(() => Session.TransformAt(world), []);

    /// <summary>How far from a camera the pivot of an object is, along its axis, in metres; 0 where it cannot be said.</summary>
    [JSExport]
    internal static double DepthOf(string camera, string id) => Safely(() => Open.DepthOf(camera, id), 0);

    /// <summary>How flat objects lie in the space of the first: six numbers for each; nothing where that has no extent.</summary>
    [JSExport]
    internal static double[] FlatMapsOf(byte[] ids) => Safely(() => Open.FlatMapsOf(Packed.ReadTexts(ids, "ids")), []);

    /// <summary>Holds the pose before until the evaluated frame; where no key comes before it, keys channels as they are now.</summary>
    /// <param name="channels">An array of addresses.</param>
    [JSExport]
    internal static byte[] Hold(byte[] channels, string id) => Answer(() => Made(new EditEntry(Open.Hold(Addresses(channels))) { Id = id }));

    /// <summary>A pose between the one before and the one after the evaluated frame; see <see cref="Session.Between"/>.</summary>
    /// <param name="channels">An array of addresses.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] Between(byte[] channels, double share, bool commit, string id) => Answer(() =>
    {
        var edit = Open.Between(Addresses(channels), share);
        if (commit)
        {
            return Made(new EditEntry(edit) { Id = id });
        }
        Open.Try(edit);
        return new Outcome();
    });

    /// <summary>Keys channels as they are now.</summary>
    /// <param name="channels">An array of addresses.</param>
    [JSExport]
    internal static byte[] KeyNow(byte[] channels, string id) => Answer(() => Made(new EditEntry(Open.KeyNow(Addresses(channels))) { Id = id }));

    /// <summary>What channels have to be keyed with so that what is seen now is kept, one number each.</summary>
    [JSExport]
    internal static double[] ValuesNow(byte[] channels) => Safely(() => Open.ValuesOf(Addresses(channels)), []);

    /// <summary>The addresses of the channels that were changed and wait to be keyed.</summary>
    [JSExport]
    internal static byte[] Waiting() =>
        Safely(() => Packed.Write(Open.Waiting.Select(a => a.ToString()).ToArray()), Packed.Write(Array.Empty<string>()));

    /// <summary>A <see cref="LeftView"/> of the values that waited on the frame that was left, or nothing.</summary>
    [JSExport]
    internal static byte[] Left() => Safely<byte[]>(() => Open.Left is { } left ? Packed.Write(left) : [], []);

    /// <summary>Lets the values wait again that were left behind. Their frame has to be evaluated before.</summary>
    [JSExport]
    internal static byte[] BringBack() => Answer(() =>
    {
        Open.BringBack();
        return new Outcome();
    });

    private static Outcome Posed(IReadOnlyList<ChannelValue> values, bool autoKey, bool commit, string id)
    {
        var (edit, waiting) = Open.Pose(values, autoKey);
        if (!commit || edit is null)
        {
            Open.Try(edit);
        }
        Open.Wait(values.Select(v => v with { Address = v.Address.Base }), waiting);
        return commit && edit is not null ? Made(new EditEntry(edit) { Id = id }) : new Outcome();
    }
}
