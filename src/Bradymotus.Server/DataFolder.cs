using Bradymotus.Core;

namespace Bradymotus.Server;

/// <summary>Where everything is kept: the database and the rendered pictures. Nothing is written outside.</summary>
public sealed class DataFolder
{
    /// <exception cref="Refusal">The folder cannot be made.</exception>
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        try
        {
            Directory.CreateDirectory(Path.Combine(Root, "renders"));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The data folder {Root} cannot be made: {e.Message.TrimEnd('.')}. Choose another with --data.", e);
        }
    }

    public string Root { get; }

    public string Database => Path.Combine(Root, "bradymotus.db");

    /// <summary>The folder of one rendered sequence.</summary>
    /// <param name="id">Letters and digits only.</param>
    public string Render(string id) => id.All(char.IsAsciiLetterOrDigit) && id.Length > 0
        ? Path.Combine(Root, "renders", id)
        : throw new Store.NotFoundException("render", id);
}
