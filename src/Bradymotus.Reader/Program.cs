using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Reader;

// A group of processes of its own, so that all of it can be ended at once.
_ = ProcessGroup.Begin(0, 0);

// Requests come as lines, answers go as lines, one after the other. When nobody is left who could ask, this ends with all that it has started,
// whatever it is at.
using var input = new StreamReader(Console.OpenStandardInput());
using var output = new StreamWriter(Console.OpenStandardOutput()) { AutoFlush = true };
void Answer(ReadAnswer answer)
{
    lock (output)
    {
        output.WriteLine(JsonSerializer.Serialize(answer, ReaderJson.Options));
    }
}

while (await input.ReadLineAsync() is { } line)
{
    _ = Task.Run(async () =>
    {
        try
        {
            var request = JsonSerializer.Deserialize<ReadRequest>(line, ReaderJson.Options) ?? throw new Refusal("Nothing was asked for.");
            Answer(new(Result: await ForeignReader.ReadAsync(request, part => Answer(new(Part: part)))));
        }
        catch (Refusal e)
        {
            Answer(new(Refused: e.Message));
        }
        catch (Exception e) when (e is OutOfMemoryException or InsufficientExecutionStackException || e.InnerException is OutOfMemoryException)
        {
            Answer(new(IsOver: true));
        }
        catch (Exception e)
        {
            // Not foreseen, and no reason for the server to stop: what is wrong with it stands in the log.
            await Console.Error.WriteLineAsync(e.ToString());
            Environment.Exit(3);
        }
    });
}
_ = ProcessGroup.Signal(0, ProcessGroup.Kill);
