using Bradymotus.Core.Scene;

namespace Bradymotus.Formats;

/// <summary>Bytes that a shot refers to by name, held once and never changed.</summary>
/// <param name="Name">Their SHA-256 in lower-case hexadecimal digits.</param>
public sealed record Asset(string Name, byte[] Bytes)
{
    /// <summary>The asset of some bytes.</summary>
    public static Asset Of(byte[] bytes) => new(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes)), bytes);
}

/// <summary>What has been brought in from a file.</summary>
/// <param name="Report">What came and what could not, a sentence each.</param>
public sealed record Imported(Shot Shot, IReadOnlyList<Asset> Assets, ImportReport Report);

/// <summary>What an import has to say for itself.</summary>
/// <param name="Came">What is there now.</param>
/// <param name="Missed">What was in the file and is not there, or is not as it was, and why.</param>
public sealed record ImportReport(IReadOnlyList<string> Came, IReadOnlyList<string> Missed);
