using System.Diagnostics;
using System.Globalization;
using System.Text.Json;

namespace Bradymotus.Cli.Tests;

/// <summary>The commands as they are called from a shell.</summary>
public sealed class CliTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bradymotus-cli-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static (int Code, string Out, string Error) Run(params string[] arguments)
    {
        var start = new ProcessStartInfo(Path.Combine(Repository.Root, "src", "Bradymotus.Cli", "bin", "Release", "net10.0", "bradymotus"), arguments)
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        using var process = Process.Start(start)!;
        var error = process.StandardError.ReadToEndAsync();
        var text = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return (process.ExitCode, text, error.Result);
    }

    private string Write(string name, string text)
    {
        var path = Path.Combine(_folder, name);
        File.WriteAllText(path, text);
        return path;
    }

    [Fact]
    public void Curve_writes_frames_and_values_that_read_back_exactly()
    {
        var file = Write("c.json", """{"keys":[{"frame":0,"value":0,"segment":"linear"},{"frame":3,"value":1}]}""");
        var (code, text, _) = Run("curve", file, "--from", "-1", "--to", "4", "--step", "0.5");
        Assert.Equal(0, code);
        var lines = text.Trim().Split('\n');
        Assert.Equal("frame,value", lines[0]);
        Assert.Equal(12, lines.Length);
        Assert.Equal(0.5 * (1.0 / 3), double.Parse(lines[4].Split(',')[1], CultureInfo.InvariantCulture));
    }

    [Fact]
    public void Sample_writes_where_everything_is()
    {
        var (code, text, _) = Run("sample", Repository.Demo, "--frame", "29", "--mesh");
        Assert.Equal(0, code);
        var sample = JsonElement.Parse(text);
        Assert.Equal(29, sample.GetProperty("frame").GetDouble());
        var ball = sample.GetProperty("nodes").EnumerateArray().Single(n => n.GetProperty("path").GetString() == "/Fender/Spin/Ball");
        Assert.Equal(16, ball.GetProperty("world").GetArrayLength());
        Assert.True(ball.GetProperty("visible").GetBoolean());
        var positions = sample.GetProperty("meshes").EnumerateArray().Single(m => m.GetProperty("node").GetString() == "/Fender/Spin/Ball").GetProperty("positions");
        // On its contact the ball touches the quay, half a metre up.
        Assert.Equal(0.5, positions.EnumerateArray().Where((_, i) => i % 3 == 1).Min(y => y.GetDouble()), 2);
        Assert.False(JsonElement.Parse(Run("sample", Repository.Demo, "--frame", "0").Out).TryGetProperty("meshes", out _));
    }

    [Fact]
    public void Render_writes_numbered_pictures()
    {
        var (code, _, error) = Run("render", Repository.Demo, "--frames", "10-14/2", "--size", "64x36", "--quality", "draft", "--out", _folder, "--name", "quay_###.png", "--threads", "1", "--camera", "Fender close-up");
        Assert.True(code == 0, error);
        Assert.Equal(["quay_010.png", "quay_012.png", "quay_014.png"], Directory.GetFiles(_folder).Select(Path.GetFileName).Order());
    }

    [Theory]
    [InlineData("there is none", "sample", "nothing.shot.json", "--frame", "1")]
    [InlineData("cannot be imported", "sample", "thing.xyz", "--frame", "1")]
    [InlineData("pixels", "render", "DEMO", "--frames", "0", "--size", "0x100000")]
    [InlineData("backwards", "render", "DEMO", "--frames", "9-1")]
    [InlineData("#", "render", "DEMO", "--frames", "1", "--name", "a.png")]
    [InlineData("path", "render", "DEMO", "--frames", "1", "--name", "../a_#.png")]
    [InlineData("camera", "render", "DEMO", "--frames", "1", "--camera", "Nobody")]
    [InlineData("quality", "render", "DEMO", "--frames", "1", "--quality", "lavish")]
    [InlineData("Required", "curve", "DEMO")]
    [InlineData("fly", "fly")]
    [InlineData("port", "serve", "--port", "99999")]
    public void A_mistake_gives_exit_code_1_and_one_line(string part, params string[] arguments)
    {
        var (code, text, error) = Run([.. arguments.Select(a => a == "DEMO" ? Repository.Demo : a)]);
        Assert.Equal(1, code);
        Assert.Equal("", text);
        Assert.Single(error.Trim().Split('\n'));
        Assert.Contains(part, error, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public void A_truncated_shot_is_refused()
    {
        var whole = File.ReadAllText(Repository.Demo);
        var (code, _, error) = Run("sample", Write("cut.shot.json", whole[..(whole.Length / 2)]), "--frame", "1");
        Assert.Equal(1, code);
        Assert.Contains("cut off", error, StringComparison.Ordinal);
    }

    /// <summary>Edits are acknowledged one by one; the process is killed in the middle (SIGKILL) and started again.</summary>
    [Fact]
    public async Task Killing_the_server_loses_nothing_that_was_acknowledged()
    {
        using var client = new HttpClient();
        var (server, address) = await ServeAsync();
        var id = JsonElement.Parse(await (await client.PostAsync(new Uri(address, "/api/shots"), new StringContent("""{"name":"Kill"}""", System.Text.Encoding.UTF8, "application/json"))).Content.ReadAsStringAsync()).GetProperty("id").GetString();
        for (var i = 0; i < 20; i++)
        {
            var entry = $$$"""{"revision":{{{i}}},"entries":[{"kind":"edit","edit":{"kind":"setValues","values":[{"address":"sun/transform.translate.x","value":{{{i + 1}}}}]}}]}""";
            (await client.PostAsync(new Uri(address, $"/api/shots/{id}/journal"), new StringContent(entry, System.Text.Encoding.UTF8, "application/json"))).EnsureSuccessStatusCode();
        }
        server.Kill();
        await server.WaitForExitAsync();
        (server, address) = await ServeAsync();
        try
        {
            var shot = JsonElement.Parse(await client.GetStringAsync(new Uri(address, $"/api/shots/{id}/file")));
            var sun = shot.GetProperty("nodes").EnumerateArray().Single(n => n.GetProperty("id").GetString() == "sun");
            Assert.Equal(20, sun.GetProperty("channels").GetProperty("transform.translate.x").GetProperty("value").GetDouble());
        }
        finally
        {
            server.Kill();
            await server.WaitForExitAsync();
            server.Dispose();
        }
    }

    private async Task<(Process Server, Uri Address)> ServeAsync()
    {
        var web = Directory.CreateDirectory(Path.Combine(_folder, "home", "web", "dist")).FullName;
        await File.WriteAllTextAsync(Path.Combine(web, "index.html"), "<!doctype html>");
        var start = new ProcessStartInfo(Path.Combine(Repository.Root, "src", "Bradymotus.Cli", "bin", "Release", "net10.0", "bradymotus"), ["serve", "--port", "0", "--data", Path.Combine(_folder, "data")]) { RedirectStandardOutput = true };
        start.Environment["BRADYMOTUS_HOME"] = Path.Combine(_folder, "home");
        var server = Process.Start(start)!;
        while (await server.StandardOutput.ReadLineAsync() is { } line)
        {
            var at = line.IndexOf("http://", StringComparison.Ordinal);
            if (at >= 0)
            {
                return (server, new Uri(line[at..].Split(' ')[0]));
            }
        }
        throw new InvalidOperationException("The server did not start.");
    }
}
