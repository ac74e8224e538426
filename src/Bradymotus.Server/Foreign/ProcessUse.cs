using System.Globalization;

namespace Bradymotus.Server.Foreign;

/// <summary>What a process and all that it has started have of the machine, as Linux says in /proc.</summary>
/// <param name="id">The process.</param>
internal sealed class ProcessUse(int id)
{
    // The kernel counts time in hundredths for whoever reads it (sysconf(_SC_CLK_TCK) is 100 on every Linux that .NET runs on).
    private const int TicksPerSecond = 100;

    /// <summary>The memory that they hold in the machine, in bytes.</summary>
    public long Bytes() => All(id).Sum(p => Number(Read($"/proc/{p}/statm"), 1)) * Environment.SystemPageSize;

    /// <summary>How long they have computed, those that have ended too.</summary>
    public TimeSpan Processor()
    {
        // utime and stime of each; what has ended is counted by the one that started it, in cutime and cstime.
        var ticks = All(id).Sum(p => After(Read($"/proc/{p}/stat")) is var stat ? Number(stat, 11) + Number(stat, 12) + Number(stat, 13) + Number(stat, 14) : 0);
        return TimeSpan.FromSeconds((double)ticks / TicksPerSecond);
    }

    private static IEnumerable<int> All(int id)
    {
        yield return id;
        foreach (var child in Threads(id).SelectMany(t => Read($"{t}/children").Split(' ', StringSplitOptions.RemoveEmptyEntries)))
        {
            foreach (var below in All(int.Parse(child, CultureInfo.InvariantCulture)))
            {
                yield return below;
            }
        }
    }

    private static string[] Threads(int id)
    {
        try
        {
            return Directory.GetDirectories($"/proc/{id}/task");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return [];
        }
    }

    // The name of the program stands in brackets and may hold anything.
    private static string After(string stat) => stat[(stat.LastIndexOf(')') + 1)..];

    private static long Number(string line, int at) => line.Split(' ', StringSplitOptions.RemoveEmptyEntries) is { } parts && parts.Length > at
        && long.TryParse(parts[at], CultureInfo.InvariantCulture, out var number) ? number : 0;

    private static string Read(string file)
    {
        try
        {
            return File.ReadAllText(file);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // It has ended meanwhile.
            return "";
        }
    }
}
