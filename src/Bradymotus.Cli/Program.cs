using System.CommandLine;
using Bradymotus.Cli;
using Bradymotus.Core;

var root = new RootCommand("Bradymotus: animate, look, render.");
foreach (var command in Commands.All())
{
    root.Subcommands.Add(command);
}
try
{
    var parsed = root.Parse(args);
    if (parsed.UnmatchedTokens.Count > 0)
    {
        throw new Refusal($"“{parsed.UnmatchedTokens[0]}” is not known here: see “bradymotus --help” for the commands.");
    }
    if (parsed.Errors.Count > 0)
    {
        throw new Refusal($"{parsed.Errors[0].Message.TrimEnd('.')}. See “bradymotus {parsed.CommandResult.Command.Name} --help”.");
    }
    return await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
}
catch (Exception e) when (e is Refusal or Microsoft.Data.Sqlite.SqliteException or IOException or UnauthorizedAccessException or OperationCanceledException)
{
    await Console.Error.WriteLineAsync(e.Message.ReplaceLineEndings(" "));
    return 1;
}
catch (Exception e)
{
    // Not foreseen: one line all the same, with where it came from for whoever looks into it.
    var where = e.StackTrace?.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).FirstOrDefault();
    await Console.Error.WriteLineAsync($"Something went wrong in the program itself ({e.GetType().Name}: {e.Message} {where}): please report it with the file that it came from.".ReplaceLineEndings(" "));
    return 1;
}
