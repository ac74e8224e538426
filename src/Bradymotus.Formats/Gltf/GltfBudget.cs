using Bradymotus.Core;

namespace Bradymotus.Formats.Gltf;

/// <summary>
/// How much memory the numbers of a glTF file may take. A small file can ask for much: an accessor without a buffer holds nothing but zeros, and one
/// accessor serves any number of meshes and morph targets. All is counted before it is made.
/// </summary>
/// <param name="file">The file's name, for the message.</param>
/// <param name="bytes">The most that all meshes of the file together may take.</param>
internal sealed class GltfBudget(string file, long bytes)
{
    private readonly long _most = bytes;
    private long _taken;

    /// <summary>For a file from elsewhere, in bytes: two million vertices with all they can have and one morph target, or ten times a detailed character.</summary>
    internal const long Foreign = 256L << 20;

    /// <summary>For a mesh of our own, in bytes.</summary>
    internal const long Own = 1L << 30;

    /// <summary>Counts bytes that are about to be taken.</summary>
    /// <exception cref="Refusal">There is no room for them.</exception>
    internal void Take(long wanted)
    {
        if (wanted > _most - _taken)
        {
            throw new Refusal($"{file} would take more than {_most >> 20} MB of memory once it is read: split it, or leave out vertices or morph targets.");
        }
        _taken += wanted;
    }
}
