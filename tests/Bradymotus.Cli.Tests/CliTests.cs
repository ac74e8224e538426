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
    public void Check_says_what_is_wrong_and_mends_it_when_asked()
    {
        var file = Write("idle.shot.json", """
            {"name":"Idle","rate":{"numerator":24},"range":{"first":0,"last":47},"size":{"width":64,"height":36},"nodes":[{"kind":"group","id":"g","name":"G","channels":{
              "transform.translate.x":{"value":0,"curve":{"keys":[{"frame":0,"value":2},{"frame":20,"value":2}]}},
              "transform.translate.y":{"value":0,"curve":{"keys":[{"frame":0,"value":0},{"frame":40,"value":0.3},{"frame":46,"value":5}]}},
              "transform.scale.x":{"value":1,"curve":{"keys":[{"frame":0,"value":1},{"frame":20,"value":1}]}}}}]}
            """);
        var before = File.ReadAllText(file);
        var (code, text, _) = Run("check", file);
        Assert.Equal(0, code);
        Assert.Equal(["idleKeys", "idleKeys", "drift"], JsonElement.Parse(text).EnumerateArray().Select(f => f.GetProperty("kind").GetString()).OrderDescending());
        var target = Path.Combine(_folder, "mended.shot.json");
        (code, text, _) = Run("check", file, "--mend", target);
        Assert.Equal((0, "[]"), (code, text.Trim()));
        Assert.Equal(before, File.ReadAllText(file));
        Assert.Equal("[]", Run("check", target).Out.Trim());
        var left = JsonElement.Parse(File.ReadAllText(target)).GetProperty("nodes")[0].GetProperty("channels");
        Assert.Equal(2, left.GetProperty("transform.translate.x").GetProperty("value").GetDouble());
        Assert.False(left.GetProperty("transform.translate.x").TryGetProperty("curve", out _));
        // Only a shot can be written, and nothing is where it cannot.
        var (refused, _, why) = Run("check", file, "--mend", Path.Combine(_folder, "mended.glb"));
        Assert.Equal(1, refused);
        Assert.Contains("is no *.shot.json", why, StringComparison.Ordinal);
        Assert.False(File.Exists(Path.Combine(_folder, "mended.glb")));
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
    [InlineData("there is none", "edit", "DEMO", "e.json")]
    [InlineData("there is none", "put", "DEMO", "nothing.pose.json", "--frame", "1")]
    [InlineData("no object “Nobody”", "keep", "DEMO", "--node", "Nobody", "--out", "x.pose.json", "--frame", "1")]
    [InlineData("no layer “None”", "keep", "DEMO", "--layer", "None", "--out", "x.motion.json")]
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
    public void A_pose_and_a_motion_are_kept_as_files_and_put_onto_a_shot_again()
    {
        var shot = Write("a.shot.json", """{"version":1,"name":"A","rate":{"numerator":24},"range":{"first":0,"last":48},"size":{"width":16,"height":9},"nodes":[{"kind":"group","id":"g","name":"Buoy","channels":{"transform.translate.y":{"value":0,"curve":{"keys":[{"frame":0,"value":1},{"frame":10,"value":3,"segment":"linear"}]}}}},{"kind":"group","id":"h","name":"Raft"}]}""");
        var (pose, motion, made) = (Path.Combine(_folder, "kept", "buoy.pose.json"), Path.Combine(_folder, "buoy.motion.json"), Path.Combine(_folder, "made.shot.json"));
        Assert.Equal((0, $"{pose}: 9 channels of 1 objects\n"), Run("keep", shot, "--node", "Buoy", "--frame", "10", "--out", pose) is var (c, o, _) ? (c, o) : default);
        Assert.Equal(0, Run("keep", shot, "--node", "Buoy", "--out", motion).Code);
        Assert.Equal((0, ""), Run("put", shot, motion, "--frame", "20", "--node", "Raft", "--time", "2", "--out", made) is var (code, _, error) ? (code, error) : default);
        Assert.Contains("9 channels of 1 object", Run("put", made, pose, "--frame", "30", "--node", "Raft", "--share", "0.5").Out, StringComparison.Ordinal);
        double Y(string node, int frame) => JsonElement.Parse(Run("sample", made, "--frame", $"{frame}").Out).GetProperty("nodes").EnumerateArray().Single(n => n.GetProperty("name").GetString() == node).GetProperty("world")[13].GetDouble();
        Assert.Equal((1, 3), (Y("Raft", 20), Y("Raft", 40)));
        // Half way from 2, where the motion has it on frame 30, to 3.
        Assert.Equal(2.5, Y("Raft", 30), 1e-9);
        Assert.Equal(1, Y("Buoy", 0));
    }

    [Fact]
    public void Edits_of_a_file_are_made_all_or_none()
    {
        var shot = Write("b.shot.json", """{"version":1,"name":"B","rate":{"numerator":24},"range":{"first":0,"last":48},"size":{"width":16,"height":9},"nodes":[{"kind":"group","id":"g","name":"Buoy"}]}""");
        const string key = """{"kind":"setKeys","frame":4,"values":[{"address":"g/transform.translate.x","value":2}]}""";
        Assert.Equal(0, Run("edit", shot, Write("e.json", $"[{key}]")).Code);
        var before = File.ReadAllText(shot);
        Assert.Contains("\"frame\": 4", before, StringComparison.Ordinal);
        var (code, _, error) = Run("edit", shot, Write("f.json", $$"""[{{key.Replace("4", "9", StringComparison.Ordinal)}},{"kind":"removeNodes","ids":["gone"]}]"""));
        Assert.Equal(1, code);
        Assert.Contains("Edit 2 of 2 cannot be made, so nothing was written", error, StringComparison.Ordinal);
        Assert.Equal(before, File.ReadAllText(shot));
        Assert.DoesNotContain(Directory.GetFiles(_folder), f => f.EndsWith(".part", StringComparison.Ordinal));
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
