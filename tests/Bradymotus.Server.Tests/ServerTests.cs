using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Server.Rendering;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.Extensions.DependencyInjection;

namespace Bradymotus.Server.Tests;

/// <summary>A real server on a free port, with a data folder of its own that a second one may open.</summary>
public sealed class TestServer : IAsyncDisposable
{
    private readonly bool _ownsFolder;

    private TestServer(WebApplication app, string folder, bool ownsFolder)
    {
        (App, Folder, _ownsFolder) = (app, folder, ownsFolder);
        Client = new HttpClient { BaseAddress = new(app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses.First()) };
    }

    public WebApplication App { get; }

    public string Folder { get; }

    public HttpClient Client { get; }

    /// <param name="web">The folder of a built interface that it serves too.</param>
    public static async Task<TestServer> StartAsync(string? folder = null, string? web = null)
    {
        var data = folder ?? Directory.CreateTempSubdirectory("bradymotus-test-").FullName;
        var app = await BradymotusServer.BuildAsync(new(data, 0, web, Quiet: true));
        await app.StartAsync();
        return new(app, data, folder is null);
    }

    public async Task<JsonElement> GetAsync(string path) => JsonElement.Parse(await Client.GetStringAsync(new Uri(path, UriKind.Relative)));

    public async Task<(HttpStatusCode Status, JsonElement Body)> SendAsync(HttpMethod method, string path, object? body = null)
    {
        using var request = new HttpRequestMessage(method, path) { Content = body is string text ? new StringContent(text, Encoding.UTF8, "application/json") : body is null ? null : JsonContent.Create(body) };
        using var answer = await Client.SendAsync(request);
        var content = await answer.Content.ReadAsStringAsync();
        return (answer.StatusCode, content.Length > 0 ? JsonElement.Parse(content) : default);
    }

    public async Task<string> NewShotAsync(string name = "Test") =>
        (await SendAsync(HttpMethod.Post, "/api/shots", new { name })).Body.GetProperty("id").GetString()!;

    public Task<(HttpStatusCode Status, JsonElement Body)> EditAsync(string id, int revision, params Edit[] edits) =>
        SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", new { revision, entries = edits.Select(e => JsonElement.Parse(ShotJson.Write(new EditEntry(e) as JournalEntry))) });

    public async Task<Shot> ShotAsync(string id) => ShotJson.ReadShot(await Client.GetStringAsync(new Uri($"/api/shots/{id}/file", UriKind.Relative)));

    public async ValueTask DisposeAsync()
    {
        Client.Dispose();
        await App.StopAsync();
        await App.DisposeAsync();
        if (_ownsFolder)
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(Folder, recursive: true);
        }
    }
}

public class ServerTests
{
    private static SetValues Lift(double to) => new([new(new ChannelAddress("sun", "transform.translate.y"), to)]);

    private static async Task UntilAsync(Func<Task<bool>> done)
    {
        for (var i = 0; i < 600; i++)
        {
            if (await done())
            {
                return;
            }
            await Task.Delay(50);
        }
        Assert.Fail("It did not happen within 30 seconds.");
    }

    [Fact]
    public async Task It_is_ready_and_describes_its_api()
    {
        await using var server = await TestServer.StartAsync();
        Assert.Equal("ok", await server.Client.GetStringAsync(new Uri("/healthz", UriKind.Relative)));
        Assert.True((await server.GetAsync("/openapi.json")).GetProperty("paths").TryGetProperty("/api/shots/{id}/journal", out _));
    }

    [Fact]
    public async Task A_shot_lives_in_the_library_from_new_to_deleted_and_back()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync("Pier");
        Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Put, $"/api/shots/{id}/name", new { name = "Mole" })).Status);
        Assert.Equal("Mole", (await server.ShotAsync(id)).Name);
        Assert.Equal("Mole 2", (await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/duplicate")).Body.GetProperty("name").GetString());
        Assert.Equal(2, (await server.GetAsync("/api/shots")).GetArrayLength());
        await server.SendAsync(HttpMethod.Delete, $"/api/shots/{id}");
        Assert.Equal(1, (await server.GetAsync("/api/shots")).GetArrayLength());
        await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/undelete");
        Assert.Equal(2, (await server.GetAsync("/api/shots")).GetArrayLength());
    }

    [Fact]
    public async Task The_opening_is_the_newest_state_on_its_first_frame()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        await server.EditAsync(id, 0, Lift(3.5), new SetShot(PlayRange: new(12, 20)));
        var opening = await server.GetAsync($"/api/shots/{id}/opening");
        Assert.Equal((2, 12), (opening.GetProperty("revision").GetInt32(), opening.GetProperty("frame").GetInt32()));
        var scene = opening.GetProperty("scene");
        var sun = scene.GetProperty("nodes").EnumerateArray().Single(n => n.GetProperty("id").GetString() == "sun");
        var matrices = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, float>(opening.GetProperty("matrices").GetBytesFromBase64()).ToArray();
        Assert.Equal(3.5f, matrices[16 * sun.GetProperty("index").GetInt32() + 13]);
        var values = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, double>(opening.GetProperty("values").GetBytesFromBase64()).ToArray();
        var owner = scene.GetProperty("owners").EnumerateArray().Single(o => o.GetProperty("id").GetString() == "sun");
        var paths = scene.GetProperty("specs")[owner.GetProperty("specs").GetInt32()].EnumerateArray().Select(s => s.GetProperty("path").GetString()).ToList();
        Assert.Equal(3.5, values[owner.GetProperty("first").GetInt32() + paths.IndexOf("transform.translate.y")]);
        // The ground, the only mesh: four corners at the least, each with a normal, and whole triangles.
        var mesh = Assert.Single(opening.GetProperty("meshes").EnumerateArray());
        var positions = mesh.GetProperty("positions").GetBytesFromBase64();
        Assert.True(positions.Length >= 4 * 12 && positions.Length == mesh.GetProperty("normals").GetBytesFromBase64().Length);
        Assert.Equal(0, mesh.GetProperty("indices").GetBytesFromBase64().Length % 12);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, "/api/shots/none/opening")).Status);
    }

    [Fact]
    public async Task What_is_exported_can_be_imported()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        await server.EditAsync(id, 0, Lift(7));
        var (status, body) = await server.SendAsync(HttpMethod.Post, "/api/shots/import", ShotJson.Write(await server.ShotAsync(id)));
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(7, (await server.ShotAsync(body.GetProperty("id").GetString()!)).Channel(new("sun", "transform.translate.y")).Value);
    }

    [Fact]
    public async Task An_acknowledged_edit_is_there_after_the_process_is_gone()
    {
        var folder = Directory.CreateTempSubdirectory("bradymotus-test-").FullName;
        try
        {
            await using var first = await TestServer.StartAsync(folder);
            var id = await first.NewShotAsync();
            for (var i = 0; i < 5; i++)
            {
                Assert.Equal(HttpStatusCode.OK, (await first.EditAsync(id, i, Lift(i + 1))).Status);
            }
            // What is on the disk while the first server still runs and has not been told to stop is what a kill would leave.
            var left = Directory.CreateDirectory(Path.Combine(folder, "left")).FullName;
            foreach (var file in Directory.GetFiles(folder, "bradymotus.db*"))
            {
                File.Copy(file, Path.Combine(left, Path.GetFileName(file)));
            }
            await using var second = await TestServer.StartAsync(left);
            Assert.Equal(5, (await second.ShotAsync(id)).Channel(new("sun", "transform.translate.y")).Value);
            var document = await second.GetAsync($"/api/shots/{id}");
            Assert.Equal(5, document.GetProperty("entries").GetArrayLength());
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    public async Task A_stale_edit_is_told_what_it_missed()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        await server.EditAsync(id, 0, Lift(1), Lift(2));
        var (status, body) = await server.EditAsync(id, 0, Lift(9));
        Assert.Equal(HttpStatusCode.Conflict, status);
        Assert.Equal(2, body.GetProperty("revision").GetInt32());
        Assert.Equal(2, body.GetProperty("entries").GetArrayLength());
        Assert.Equal(2, (await server.ShotAsync(id)).Channel(new("sun", "transform.translate.y")).Value);
    }

    [Fact]
    public async Task A_batch_with_one_bad_edit_changes_nothing()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var (status, body) = await server.EditAsync(id, 0, Lift(3), new Rename("nobody", "x"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("nobody", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Equal(0, (await server.GetAsync($"/api/shots/{id}")).GetProperty("revision").GetInt32());
    }

    [Fact]
    public async Task A_long_history_opens_from_a_snapshot_and_any_state_comes_back()
    {
        var folder = Directory.CreateTempSubdirectory("bradymotus-test-").FullName;
        try
        {
            string id;
            await using (var first = await TestServer.StartAsync(folder))
            {
                id = await first.NewShotAsync();
                for (var i = 0; i < 13; i++)
                {
                    await first.EditAsync(id, i * 100, [.. Enumerable.Range(i * 100 + 1, 100).Select(n => Lift(n))]);
                }
            }
            await using var second = await TestServer.StartAsync(folder);
            var document = await second.GetAsync($"/api/shots/{id}");
            Assert.Equal(1300, document.GetProperty("revision").GetInt32());
            Assert.Equal(200, document.GetProperty("baseRevision").GetInt32());
            await second.SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", new { revision = 1300, entries = new object[] { new { kind = "restore", revision = 57 } } });
            Assert.Equal(57, (await second.ShotAsync(id)).Channel(new("sun", "transform.translate.y")).Value);
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    public async Task Another_window_hears_of_an_edit()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        await using var hub = new HubConnectionBuilder().WithUrl(new Uri(server.Client.BaseAddress!, "/live")).Build();
        var heard = new TaskCompletionSource<int>();
        hub.On<string, int>("journal", (shot, revision) => heard.TrySetResult(shot == id ? revision : -1));
        await hub.StartAsync();
        await hub.InvokeAsync("Watch", id);
        await server.EditAsync(id, 0, Lift(1));
        Assert.Equal(1, await heard.Task.WaitAsync(TimeSpan.FromSeconds(10)));
    }

    [Theory]
    [InlineData("{", "cut off")]
    [InlineData("""{"version":99}""", "newer version")]
    [InlineData("hello", "cannot be read")]
    [InlineData("", "empty")]
    public async Task A_bad_file_is_refused_with_one_sentence_and_nothing_is_kept(string file, string part)
    {
        await using var server = await TestServer.StartAsync();
        var (status, body) = await server.SendAsync(HttpMethod.Post, "/api/shots/import", file);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(part, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Equal(0, (await server.GetAsync("/api/shots")).GetArrayLength());
    }

    [Fact]
    public async Task The_interface_comes_compressed_to_whoever_takes_that_and_as_it_is_to_others()
    {
        var web = Directory.CreateTempSubdirectory("bradymotus-web-");
        Directory.CreateDirectory(Path.Combine(web.FullName, "assets"));
        var (script, small) = ("console.log('quay');", new byte[] { 1, 2, 3 });
        await File.WriteAllTextAsync(Path.Combine(web.FullName, "index.html"), "<p>Quay</p>");
        await File.WriteAllTextAsync(Path.Combine(web.FullName, "assets", "a.js"), script);
        await File.WriteAllBytesAsync(Path.Combine(web.FullName, "assets", "a.js.br"), small);
        await using var server = await TestServer.StartAsync(web: web.FullName);
        async Task<HttpResponseMessage> GetAsync(string path, string? takes)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, path);
            if (takes is not null)
            {
                request.Headers.Add("Accept-Encoding", takes);
            }
            return await server.Client.SendAsync(request);
        }
        foreach (var (takes, isSmall) in new[] { ("gzip, br", true), ("br;q=0, gzip", false), (null, false), ("gzip", false) })
        {
            using var answer = await GetAsync("/assets/a.js", takes);
            Assert.Equal("text/javascript", answer.Content.Headers.ContentType!.MediaType);
            Assert.Equal(isSmall ? ["br"] : [], answer.Content.Headers.ContentEncoding);
            Assert.Equal(isSmall ? small : Encoding.UTF8.GetBytes(script), await answer.Content.ReadAsByteArrayAsync());
            Assert.Contains("immutable", answer.Headers.CacheControl!.ToString(), StringComparison.Ordinal);
            Assert.Contains("Accept-Encoding", answer.Headers.Vary);
        }
        // What has no copy comes as it is, the front page among it; and nothing beside the folder is reached.
        using var page = await GetAsync("/", "br");
        Assert.Empty(page.Content.Headers.ContentEncoding);
        Assert.Equal("<p>Quay</p>", await page.Content.ReadAsStringAsync());
        using var outside = await GetAsync("/assets/%2e%2e/%2e%2e/secret", "br");
        Assert.Equal(HttpStatusCode.NotFound, outside.StatusCode);
        web.Delete(recursive: true);
    }

    [Fact]
    public async Task Strangers_are_not_answered()
    {
        await using var server = await TestServer.StartAsync();
        using var foreign = new HttpRequestMessage(HttpMethod.Get, "/api/shots");
        foreign.Headers.Add("Origin", "http://elsewhere.example");
        Assert.Equal(HttpStatusCode.Forbidden, (await server.Client.SendAsync(foreign)).StatusCode);
        using var named = new HttpRequestMessage(HttpMethod.Get, "/api/shots");
        named.Headers.Host = "elsewhere.example";
        Assert.Equal(HttpStatusCode.Forbidden, (await server.Client.SendAsync(named)).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, "/api/shots/nothing")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, "/api/renders/..%2f..%2fetc/folder")).Status);
    }

    [Theory]
    [InlineData("0-3", 0, 9, "draft", "a_##.png", "pixels")]
    [InlineData("0-3", 100_000, 9, "draft", "a_##.png", "pixels")]
    [InlineData("3-0", 16, 9, "draft", "a_##.png", "backwards")]
    [InlineData("", 16, 9, "draft", "a_##.png", "frames")]
    [InlineData("0-3", 16, 9, "lavish", "a_##.png", "quality")]
    [InlineData("0-3", 16, 9, "draft", "a.png", "#")]
    [InlineData("0-3", 16, 9, "draft", "../a_##.png", "path")]
    public async Task A_render_that_makes_no_sense_is_refused_and_not_queued(string frames, int width, int height, string quality, string fileName, string part)
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var (status, body) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = id, frames, width, height, quality, fileName });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(part, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Equal(0, (await server.GetAsync("/api/renders")).GetArrayLength());
    }

    private static async Task<string> OrderAsync(TestServer server, string frames, int width = 32)
    {
        var id = await server.NewShotAsync();
        var (status, body) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = id, frames, width, height = width / 2, quality = "draft", fileName = "pier_###.png" });
        Assert.Equal(HttpStatusCode.OK, status);
        return body.GetProperty("id").GetString()!;
    }

    private static async Task<string> StateAsync(TestServer server, string render) => (await server.GetAsync($"/api/renders/{render}")).GetProperty("state").GetString()!;

    /// <summary>Keys on 0 and 25: 25 pictures, 0–24, or the loop has a hitch (common practice in the trade; no published source).</summary>
    [Fact]
    public async Task A_loop_rendered_without_its_last_frame_becomes_a_film_of_so_many_pictures()
    {
        await using var server = await TestServer.StartAsync();
        var render = await OrderAsync(server, "0-24");
        await UntilAsync(async () => await StateAsync(server, render) == "done");
        var view = await server.GetAsync($"/api/renders/{render}");
        Assert.Equal(25, view.GetProperty("done").GetInt32());
        var folder = (await server.GetAsync($"/api/renders/{render}/folder")).GetProperty("path").GetString()!;
        Assert.Equal(25, Directory.GetFiles(folder, "pier_???.png").Length);
        var png = await server.Client.GetByteArrayAsync(new Uri($"/api/renders/{render}/frames/7", UriKind.Relative));
        Assert.Equal([0x89, 0x50, 0x4E, 0x47], png[..4]);

        Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/film", new { times = 2 })).Status);
        // Read back by an independent program: ffprobe.
        var start = new System.Diagnostics.ProcessStartInfo("ffprobe", ["-v", "error", "-count_frames", "-select_streams", "v", "-show_entries", "stream=codec_name,width,height,r_frame_rate,nb_read_frames,pix_fmt", "-of", "json", Path.Combine(folder, "film.mp4")]) { RedirectStandardOutput = true };
        using var probe = System.Diagnostics.Process.Start(start)!;
        var stream = JsonElement.Parse(await probe.StandardOutput.ReadToEndAsync()).GetProperty("streams")[0];
        Assert.Equal(("h264", 32, 16, "24/1", "50", "yuv420p"), (stream.GetProperty("codec_name").GetString(), stream.GetProperty("width").GetInt32(),
            stream.GetProperty("height").GetInt32(), stream.GetProperty("r_frame_rate").GetString(), stream.GetProperty("nb_read_frames").GetString(), stream.GetProperty("pix_fmt").GetString()));
    }

    /// <summary>What an independent program says of a film: ffprobe.</summary>
    private static async Task<(string Codec, double Seconds, int Frames)> ProbeAsync(string path)
    {
        var start = new System.Diagnostics.ProcessStartInfo("ffprobe", ["-v", "error", "-count_frames", "-select_streams", "v", "-show_entries", "stream=codec_name,nb_read_frames:format=duration:packet=duration_time", "-of", "json", path]) { RedirectStandardOutput = true };
        using var probe = System.Diagnostics.Process.Start(start)!;
        var about = JsonElement.Parse(await probe.StandardOutput.ReadToEndAsync());
        var stream = about.GetProperty("streams")[0];
        var packets = about.GetProperty("packets").EnumerateArray().Sum(p => p.TryGetProperty("duration_time", out var d) ? double.Parse(d.GetString()!, System.Globalization.CultureInfo.InvariantCulture) : 0);
        var seconds = about.GetProperty("format").TryGetProperty("duration", out var all) ? double.Parse(all.GetString()!, System.Globalization.CultureInfo.InvariantCulture) : packets;
        return (stream.GetProperty("codec_name").GetString()!, seconds, int.Parse(stream.GetProperty("nb_read_frames").GetString()!, System.Globalization.CultureInfo.InvariantCulture));
    }

    [Theory]
    [InlineData("mp4", "h264")]
    [InlineData("webm", "vp9")]
    [InlineData("gif", "gif")]
    [InlineData("apng", "apng")]
    public async Task A_film_lasts_as_long_as_its_range_whatever_the_step_and_holds_what_is_missing(string format, string codec)
    {
        await using var server = await TestServer.StartAsync();
        var render = await OrderAsync(server, "0-24/3");
        await UntilAsync(async () => await StateAsync(server, render) == "done");
        // One picture did not come.
        Execute(server, $"UPDATE RenderFrames SET State = 'Failed' WHERE RenderId = '{render}' AND Frame = 6");
        var (status, film) = await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/film", new { times = 1, format });
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(1, film.GetProperty("held").GetInt32());
        var path = Path.Combine(server.Folder, "film." + format);
        await File.WriteAllBytesAsync(path, await server.Client.GetByteArrayAsync(new Uri(film.GetProperty("url").GetString()!, UriKind.Relative)));
        var (name, seconds, frames) = await ProbeAsync(path);
        Assert.Equal(codec, name);
        // GIF counts in hundredths, and pictures that are the same may be one there.
        Assert.Equal(25 / 24.0, seconds, 0.06);
        Assert.True(frames == 25 || format is "gif" or "apng", $"{frames} frames");
    }

    [Theory]
    [InlineData("8 9 10 11", "8 9 10 11", 0)]
    [InlineData("_-2 _-1 _0 _1", "_-2 _-1 _0 _1", 0)]
    [InlineData("-0002 -0010", "-0002 -0002 -0002 -0002 -0002 -0002 -0002 -0002 -0010 -0010 -0010 -0010 -0010 -0010 -0010 -0010", 0)]
    [InlineData("0 2 4", "0 0 2 2 4 4", 0)]
    [InlineData("0 1 4", "0 1 1 1 4", 2)]
    [InlineData("0098 0099 0100", "0098 0099 0100", 0)]
    public void Pictures_of_a_folder_come_by_their_numbers_and_are_held_where_some_are_missing(string names, string expected, int held)
    {
        var files = names.Split(' ').Select(n => $"/f/shot{n}.png").Reverse().ToList();
        var frames = FilmFrames.OfFiles(files);
        Assert.Equal(expected, string.Join(' ', frames.Pictures.Select(p => p[7..^4])));
        Assert.Equal(held, frames.Held);
        Assert.True(frames.AreNumbered);
    }

    [Fact]
    public void Pictures_without_numbers_come_by_name_and_two_of_one_frame_are_refused()
    {
        Assert.Equal(["/f/a.png", "/f/b.png"], FilmFrames.OfFiles(["/f/b.png", "/f/a.png"]).Pictures);
        Assert.Throws<Bradymotus.Core.Refusal>(() => FilmFrames.OfFiles(["/f/a1.png", "/f/b1.png"]));
        Assert.Throws<Bradymotus.Core.Refusal>(() => FilmFrames.OfFiles(["/f/a0.png", "/f/a1.png", "/f/a999999999.png"]));
        // A name with a minus before its number is negative only where something that is no letter stands before it.
        Assert.Equal([5], FilmFrames.OfFiles(["/f/shot-0005.png"]).Frames);
    }

    [Fact]
    public async Task The_sound_of_a_very_long_film_is_as_long_as_it_is()
    {
        // Two samples a frame would do: what counts is that none of the numbers wraps.
        var path = Path.Combine(Path.GetTempPath(), $"bradymotus-{Guid.NewGuid():N}.pcm");
        try
        {
            var shot = Bradymotus.Core.Scene.Shot.Empty("Long");
            await SoundMix.WriteAsync(path, shot, [.. Enumerable.Range(0, 50_000)], 1000, _ => null, isBare: true, CancellationToken.None);
            Assert.Equal(50_000L * 48 * 4, new FileInfo(path).Length);
        }
        finally
        {
            File.Delete(path);
        }
    }

    [Fact]
    public async Task A_film_of_another_format_is_refused()
    {
        await using var server = await TestServer.StartAsync();
        var render = await OrderAsync(server, "0-1");
        await UntilAsync(async () => await StateAsync(server, render) == "done");
        foreach (var format in new[] { "avi", "", "../x", "mp4.gifx" })
        {
            var (status, body) = await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/film", new { times = 1, format });
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains(".webm", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
    }

    private static void Execute(TestServer server, string sql)
    {
        using var db = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={Path.Combine(server.Folder, "bradymotus.db")}");
        db.Open();
        using var command = db.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    [Fact]
    public async Task A_render_goes_on_after_a_restart_from_the_frame_where_it_stopped()
    {
        var folder = Directory.CreateTempSubdirectory("bradymotus-test-").FullName;
        try
        {
            string render;
            await using (var first = await TestServer.StartAsync(folder))
            {
                render = await OrderAsync(first, "0-39", 320);
                await UntilAsync(async () => (await first.GetAsync($"/api/renders/{render}")).GetProperty("done").GetInt32() >= 2);
            }
            var file = Path.Combine(folder, "renders", render, "pier_000.png");
            var before = File.GetLastWriteTimeUtc(file);
            await using var second = await TestServer.StartAsync(folder);
            await UntilAsync(async () => await StateAsync(second, render) == "done");
            Assert.Equal(40, (await second.GetAsync($"/api/renders/{render}")).GetProperty("done").GetInt32());
            Assert.Equal(before, File.GetLastWriteTimeUtc(file));
            Assert.Empty(Directory.GetFiles(Path.Combine(folder, "renders", render), "*.part"));
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    public async Task A_cancelled_render_stops_keeps_its_frames_and_can_go_on()
    {
        await using var server = await TestServer.StartAsync();
        var render = await OrderAsync(server, "0-59", 320);
        await UntilAsync(async () => (await server.GetAsync($"/api/renders/{render}")).GetProperty("done").GetInt32() >= 1);
        await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/cancel");
        await Task.Delay(300);
        var stopped = await server.GetAsync($"/api/renders/{render}");
        Assert.Equal("cancelled", stopped.GetProperty("state").GetString());
        Assert.InRange(stopped.GetProperty("done").GetInt32(), 1, 59);
        await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/resume");
        await UntilAsync(async () => await StateAsync(server, render) == "done");
    }

    [Fact]
    public async Task A_render_that_cannot_write_says_so_and_goes_on_when_it_can()
    {
        await using var server = await TestServer.StartAsync();
        var blocked = Path.Combine(server.Folder, "renders");
        Directory.Delete(blocked);
        await File.WriteAllTextAsync(blocked, "in the way");
        var render = await OrderAsync(server, "0-1");
        await UntilAsync(async () => await StateAsync(server, render) == "failed");
        Assert.NotEqual("", (await server.GetAsync($"/api/renders/{render}")).GetProperty("message").GetString());
        File.Delete(blocked);
        await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/resume");
        await UntilAsync(async () => await StateAsync(server, render) == "done");
    }

    [Fact]
    public async Task A_missing_ffmpeg_is_said_with_what_to_do()
    {
        await using var server = await TestServer.StartAsync();
        var render = await OrderAsync(server, "0-1");
        await UntilAsync(async () => await StateAsync(server, render) == "done");
        var path = Environment.GetEnvironmentVariable("PATH");
        Environment.SetEnvironmentVariable("PATH", server.Folder);
        try
        {
            var (status, body) = await server.SendAsync(HttpMethod.Post, $"/api/renders/{render}/film", new { times = 1 });
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains("apt-get install ffmpeg", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
        finally
        {
            Environment.SetEnvironmentVariable("PATH", path);
        }
    }
}
