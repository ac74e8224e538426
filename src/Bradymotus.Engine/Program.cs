using System.Runtime.Versioning;

[assembly: SupportedOSPlatform("browser")]

// The library is called from the page; there is nothing to do at start.
return;
