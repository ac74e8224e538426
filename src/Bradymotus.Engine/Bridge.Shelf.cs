using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>What is copied, kept and put elsewhere.</summary>
internal static partial class Bridge
{
    /// <summary>The animation of objects: a <see cref="Saved"/>; nothing where they have none.</summary>
    /// <param name="ids">The objects, with what hangs below them.</param>
    /// <param name="first">Keys before this frame are left out.</param>
    /// <param name="last">Keys after this frame are left out.</param>
    [JSExport]
    internal static byte[] CopyMotion(byte[] ids, double first, double last) =>
        Safely<byte[]>(() => Packed.Write(Saved.MotionOf(Open.Shown, Packed.ReadTexts(ids, "ids"), Open.Layer, first, last) as Saved), []);

    /// <summary>Objects as a shot of their own; see <see cref="Core.Editing.Transplant"/>. A sentence where they cannot go alone.</summary>
    /// <param name="ids">Their ids.</param>
    [JSExport]
    internal static byte[] CopyObjects(byte[] ids, double frame) => Packed.Write(Core.Editing.Transplant.Take(Open.Shown, Packed.ReadTexts(ids, "ids"), frame));

    /// <summary>Puts objects of another shot in.</summary>
    /// <param name="objects">What <see cref="CopyObjects"/> gave.</param>
    /// <param name="prefix">Of their new ids.</param>
    [JSExport]
    internal static byte[] PutObjects(byte[] objects, string prefix, string id) =>
        Answer(() => Made(new EditEntry(Core.Editing.Transplant.Put(Open.History.Current, Packed.ReadShot(objects, "objects"), prefix)) { Id = id }));

    /// <summary>What objects have on the evaluated frame, with what hangs below them: a <see cref="Saved"/>; nothing where there are none.</summary>
    [JSExport]
    internal static byte[] CopyPose(byte[] ids) => Safely<byte[]>(() => Packed.Write(Saved.PoseOf(Open.Frame(false).State, Packed.ReadTexts(ids, "ids")) as Saved), []);

    /// <summary>Begins to put a pose onto objects; <see cref="PutPose"/> then says how much of it.</summary>
    /// <param name="pose">A <see cref="Saved"/>.</param>
    /// <param name="targets">The ids of the objects; none is all of the shot.</param>
    /// <param name="mirror">Left for right.</param>
    /// <returns>An <see cref="Outcome"/>, whose refusal says that nothing fits.</returns>
    [JSExport]
    internal static byte[] BeginPose(byte[] pose, byte[] targets, bool mirror) => Answer(() =>
    {
        _report = Open.BeginPut((SavedPose)Packed.ReadSaved(pose, "pose"), Packed.ReadTexts(targets, "ids"), mirror);
        return new Outcome();
    });

    private static IReadOnlyList<string> _report = [];

    /// <summary>What of the pose fits that was begun with last, and what does not, a sentence each.</summary>
    [JSExport]
    internal static byte[] PoseReport() => Packed.Write(_report.ToArray());

    /// <summary>Puts the pose, whole or in part, as <see cref="Pose"/>.</summary>
    /// <param name="share">0 is how it was, 1 is the pose; it may go past both.</param>
    [JSExport]
    internal static byte[] PutPose(double share, bool autoKey, bool commit, string id) => Answer(() => Posed(Open.Put(share), autoKey, commit, id));

    /// <summary>What of an animation fits and what does not, a sentence each.</summary>
    /// <param name="edit">A <see cref="PutMotion"/>.</param>
    [JSExport]
    internal static byte[] MotionReport(byte[] edit) => Safely(() => Packed.Write(((PutMotion)ReadEdit(edit)).Report(Open.History.Current).ToArray()), Packed.Write(Array.Empty<string>()));
}
