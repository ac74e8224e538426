using System.Runtime.InteropServices;

namespace Bradymotus.Reader;

/// <summary>This process and what it has started, as POSIX groups them.</summary>
internal static partial class ProcessGroup
{
    /// <summary>SIGKILL.</summary>
    internal const int Kill = 9;

    /// <summary>setpgid: with 0 and 0 this process begins a group.</summary>
    [LibraryImport("libc", EntryPoint = "setpgid")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    internal static partial int Begin(int process, int group);

    /// <summary>kill: with 0 it goes to the whole group of this process.</summary>
    [LibraryImport("libc", EntryPoint = "kill")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    internal static partial int Signal(int process, int signal);
}
