using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Server.Tests;

/// <summary>Every door of the API: what it answers, and what it answers to nonsense.</summary>
public class ApiTests
{
    private static SetValues Lift(double to) => new([new(new ChannelAddress("sun", "transform.translate.y"), to)]);

    private static async Task<JsonElement> OrderAsync(TestServer server, string shot, string frames = "0-2", string fileName = "pier_###.png")
    {
        var (status, body) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames, width = 16, height = 9, quality = "draft", fileName });
        Assert.Equal(HttpStatusCode.OK, status);
        return body;
    }

    private static async Task<JsonElement> DoneAsync(TestServer server, string render)
    {
        for (var i = 0; i < 600; i++)
        {
            var view = await server.GetAsync($"/api/renders/{render}");
            if (view.GetProperty("state").GetString() == "done")
            {
                return view;
            }
            await Task.Delay(50);
        }
        throw new TimeoutException("The render has not finished.");
    }

    [Theory]
    [InlineData("GET", "/api/shots/none")]
    [InlineData("GET", "/api/shots/none/journal")]
    [InlineData("GET", "/api/shots/none/file")]
    [InlineData("GET", "/api/shots/none/opening")]
    [InlineData("GET", "/api/shots/none/thumbnail")]
    [InlineData("POST", "/api/shots/none/duplicate")]
    [InlineData("DELETE", "/api/shots/none")]
    [InlineData("POST", "/api/shots/none/undelete")]
    [InlineData("GET", "/api/renders/none")]
    [InlineData("GET", "/api/renders/none/folder")]
    [InlineData("GET", "/api/renders/none/frames/1")]
    [InlineData("GET", "/api/renders/none/frames/1/small")]
    [InlineData("GET", "/api/renders/none/film")]
    [InlineData("POST", "/api/renders/none/cancel")]
    [InlineData("POST", "/api/renders/none/resume")]
    [InlineData("GET", "/api/saved/none")]
    [InlineData("DELETE", "/api/saved/none")]
    [InlineData("POST", "/api/saved/none/undelete")]
    public async Task What_does_not_exist_is_said_in_one_sentence(string method, string path)
    {
        await using var server = await TestServer.StartAsync();
        var (status, body) = await server.SendAsync(new HttpMethod(method), path);
        Assert.Equal(HttpStatusCode.NotFound, status);
        var detail = body.GetProperty("detail").GetString()!;
        Assert.Contains("none", detail, StringComparison.Ordinal);
        Assert.EndsWith(".", detail, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("/api/shots", "{")]
    [InlineData("/api/shots", "[]")]
    [InlineData("/api/shots", "")]
    [InlineData("/api/renders", "{\"shotId\":5}")]
    [InlineData("/api/renders", "null")]
    [InlineData("/api/shots/import", "\"text\"")]
    [InlineData("/api/shots/import", "")]
    public async Task Nonsense_is_refused_and_nothing_is_kept(string path, string body)
    {
        await using var server = await TestServer.StartAsync();
        var (status, problem) = await server.SendAsync(HttpMethod.Post, path, body);
        Assert.InRange((int)status, 400, 422);
        var sentence = problem.GetProperty("detail").GetString()!;
        Assert.EndsWith(".", sentence, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', sentence);
        Assert.Equal(0, (await server.GetAsync("/api/shots")).GetArrayLength());
        Assert.Equal(0, (await server.GetAsync("/api/renders")).GetArrayLength());
    }

    [Theory]
    [InlineData("{}")]
    [InlineData("""{"revision":0}""")]
    [InlineData("""{"revision":0,"entries":null}""")]
    [InlineData("""{"revision":"0","entries":[]}""")]
    [InlineData("""{"revision":0,"entries":[null]}""")]
    [InlineData("""{"revision":0,"entries":[{}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit"}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":null}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"setKeys"}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"setKeys","frame":1,"values":null}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"removeNodes","ids":null}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"batch","label":"x","edits":[null]}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"batch","edits":[]}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"addNodes","nodes":[null]}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"replaceShot","label":"x"}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"edit","edit":{"kind":"setCurve","address":"sun/visible","curve":{"keys":[null]}}}]}""")]
    [InlineData("""{"revision":0,"entries":[{"kind":"restore","revision":-1}]}""")]
    public async Task A_journal_of_nonsense_is_refused_and_changes_nothing(string body)
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var before = ShotJson.Write(await server.ShotAsync(id));
        var (status, problem) = await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", body);
        Assert.True((int)status is 400 or 422, $"{status}: {problem}");
        Assert.DoesNotContain('\n', problem.GetProperty("detail").GetString()!);
        Assert.Equal(before, ShotJson.Write(await server.ShotAsync(id)));
        Assert.Equal(0, (await server.GetAsync($"/api/shots/{id}/journal")).GetArrayLength());
    }

    [Fact]
    public async Task A_name_is_trimmed_changed_and_refused_when_it_is_empty()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync("  Pier  ");
        Assert.Equal("Pier", (await server.ShotAsync(id)).Name);
        Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Put, $"/api/shots/{id}/name", new { name = "Mole" })).Status);
        Assert.Equal("Mole", (await server.GetAsync("/api/shots"))[0].GetProperty("name").GetString());
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await server.SendAsync(HttpMethod.Put, $"/api/shots/{id}/name", new { name = " " })).Status);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await server.SendAsync(HttpMethod.Post, "/api/shots", new { name = "" })).Status);
        Assert.Equal("Mole", (await server.ShotAsync(id)).Name);
    }

    [Fact]
    public async Task A_duplicate_has_a_free_name_and_a_history_of_its_own()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync("Pier");
        await server.EditAsync(id, 0, Lift(2));
        var copy = (await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/duplicate")).Body;
        Assert.Equal(("Pier 2", 0), (copy.GetProperty("name").GetString(), copy.GetProperty("revision").GetInt32()));
        var copied = copy.GetProperty("id").GetString()!;
        await server.EditAsync(copied, 0, Lift(9));
        Assert.Equal(2, (await server.ShotAsync(id)).Channel(new("sun", "transform.translate.y")).Value);
        Assert.Equal(9, (await server.ShotAsync(copied)).Channel(new("sun", "transform.translate.y")).Value);
    }

    [Fact]
    public async Task The_journal_is_read_from_any_revision()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        await server.EditAsync(id, 0, Lift(1), Lift(2), Lift(3));
        var after = await server.GetAsync($"/api/shots/{id}/journal?after=1");
        Assert.Equal([2, 3], after.EnumerateArray().Select(e => e.GetProperty("revision").GetInt32()));
        Assert.Equal(0, (await server.GetAsync($"/api/shots/{id}/journal?after=3")).GetArrayLength());
        Assert.Equal(0, (await server.GetAsync($"/api/shots/{id}/journal?after=99")).GetArrayLength());
        var entry = after[0];
        Assert.Equal("Set Sun · Position Y", entry.GetProperty("label").GetString());
        Assert.IsType<EditEntry>(ShotJson.Read<JournalEntry>(entry.GetProperty("entry").GetRawText(), "entry"));
    }

    /// <summary>Many windows at once: each edit is taken once, in one order, and whoever was late is told so.</summary>
    [Fact]
    public async Task Of_many_edits_on_one_revision_exactly_one_is_taken()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        for (var round = 0; round < 3; round++)
        {
            var answers = await Task.WhenAll(Enumerable.Range(0, 12).Select(i => server.EditAsync(id, round, Lift(100 * round + i))));
            Assert.Single(answers, a => a.Status == HttpStatusCode.OK);
            Assert.All(answers.Where(a => a.Status != HttpStatusCode.OK), a =>
            {
                Assert.Equal(HttpStatusCode.Conflict, a.Status);
                Assert.Equal(round + 1, a.Body.GetProperty("revision").GetInt32());
                Assert.Single(a.Body.GetProperty("entries").EnumerateArray());
            });
        }
        Assert.Equal(3, (await server.GetAsync($"/api/shots/{id}/journal")).GetArrayLength());
    }

    [Fact]
    public async Task An_exported_file_is_named_after_the_shot_and_cannot_leave_a_folder()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync("Pier & ..%mole:2");
        using var answer = await server.Client.GetAsync(new Uri($"/api/shots/{id}/file", UriKind.Relative));
        var name = answer.Content.Headers.ContentDisposition!.FileName!.Trim('"');
        Assert.Equal("Pier------mole-2.shot.json", name);
        Assert.StartsWith("{\n", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_file_with_a_byte_order_mark_is_read_and_one_that_is_too_large_is_not()
    {
        await using var server = await TestServer.StartAsync();
        var text = ShotJson.Write(Shot.Empty("Marked"));
        using var marked = new ByteArrayContent([.. Encoding.UTF8.Preamble, .. Encoding.UTF8.GetBytes(text)]);
        marked.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        using var taken = await server.Client.PostAsync(new Uri("/api/shots/import", UriKind.Relative), marked);
        Assert.Equal(HttpStatusCode.OK, taken.StatusCode);
        using var large = new ByteArrayContent(new byte[70 << 20]);
        large.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        using var refused = await server.Client.PostAsync(new Uri("/api/shots/import", UriKind.Relative), large);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        Assert.Contains("64 MB", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(1, (await server.GetAsync("/api/shots")).GetArrayLength());
    }

    [Fact]
    public async Task A_small_picture_shows_the_newest_state_and_there_is_none_without_a_camera()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var before = await server.Client.GetByteArrayAsync(new Uri($"/api/shots/{id}/thumbnail", UriKind.Relative));
        Assert.Equal([0x89, 0x50, 0x4E, 0x47], before[..4]);
        await server.EditAsync(id, 0, new SetValues([new(new ChannelAddress("sun", "light.strength"), 0)]));
        Assert.NotEqual(before, await server.Client.GetByteArrayAsync(new Uri($"/api/shots/{id}/thumbnail", UriKind.Relative)));
        await server.EditAsync(id, 1, new RemoveNodes(["camera"]));
        using var none = await server.Client.GetAsync(new Uri($"/api/shots/{id}/thumbnail", UriKind.Relative));
        Assert.Equal(HttpStatusCode.NoContent, none.StatusCode);
        var (status, body) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = id, frames = "0", width = 16, height = 9, quality = "draft" });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("no camera", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Renders_are_listed_newest_first_and_by_shot_kept_and_shown_frame_by_frame()
    {
        await using var server = await TestServer.StartAsync();
        var (one, two) = (await server.NewShotAsync("One"), await server.NewShotAsync("Two"));
        var first = (await OrderAsync(server, one)).GetProperty("id").GetString()!;
        var second = (await OrderAsync(server, two, "5", "still_#.png")).GetProperty("id").GetString()!;
        var third = (await OrderAsync(server, one, "0-8/4")).GetProperty("id").GetString()!;
        var view = await DoneAsync(server, third);
        await DoneAsync(server, second);
        Assert.Equal([third, second, first], (await server.GetAsync("/api/renders")).EnumerateArray().Select(r => r.GetProperty("id").GetString()));
        Assert.Equal([third, first], (await server.GetAsync($"/api/renders?shot={one}")).EnumerateArray().Select(r => r.GetProperty("id").GetString()));
        Assert.Equal((3, """[{"first":0,"last":8}]"""), (view.GetProperty("frameCount").GetInt32(), view.GetProperty("doneRanges").GetRawText()));
        Assert.Equal(("0-8/4", 3, JsonValueKind.Null), (view.GetProperty("frames").GetString(), view.GetProperty("done").GetInt32(), view.GetProperty("secondsLeft").ValueKind));
        Assert.True(view.GetProperty("millisecondsPerFrame").GetDouble() > 0);
        var kept = await server.SendAsync(HttpMethod.Put, $"/api/renders/{third}/kept", new { kept = true });
        Assert.True(kept.Body.GetProperty("kept").GetBoolean());
        Assert.True((await server.GetAsync($"/api/renders/{third}")).GetProperty("kept").GetBoolean());
        using var frame = await server.Client.GetAsync(new Uri($"/api/renders/{third}/frames/4", UriKind.Relative));
        Assert.Equal("image/png", frame.Content.Headers.ContentType!.MediaType);
        Assert.Contains("immutable", frame.Headers.CacheControl!.ToString(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/renders/{third}/frames/5")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/renders/{third}/frames/5/small")).Status);
        // What is small already is itself; what is not is made so.
        Assert.Equal(await frame.Content.ReadAsByteArrayAsync(), await server.Client.GetByteArrayAsync(new Uri($"/api/renders/{third}/frames/4/small", UriKind.Relative)));
        var file = Path.Combine(server.Folder, "large.png");
        new Render.Pictures.Picture(new(640, 360), [.. Enumerable.Repeat<byte[]>([200, 100, 50, 255], 640 * 360).SelectMany(p => p)]).WritePng(file);
        await File.WriteAllBytesAsync(file + ".small.png", Render.Pictures.Picture.SmallPng(file, 160));
        var small = Render.Pictures.Picture.ReadPng(file + ".small.png");
        Assert.Equal((160, 90), (small.Size.Width, small.Size.Height));
        Assert.Equal([200, 100, 50, 255], small.Rgba[(4 * (45 * 160 + 80))..][..4]);
    }

    /// <summary>A render shows the state that it was ordered for, whatever has been done to the shot since.</summary>
    [Fact]
    public async Task A_render_keeps_the_state_it_was_ordered_for()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        await server.EditAsync(id, 0, Lift(1));
        var order = await OrderAsync(server, id);
        await server.EditAsync(id, 1, new SetValues([new(new ChannelAddress("sun", "light.strength"), 0)]));
        var later = await OrderAsync(server, id);
        Assert.Equal((1, 2), (order.GetProperty("shotRevision").GetInt32(), later.GetProperty("shotRevision").GetInt32()));
        async Task<byte[]> FrameAsync(JsonElement render)
        {
            var render1 = render.GetProperty("id").GetString()!;
            await DoneAsync(server, render1);
            return await server.Client.GetByteArrayAsync(new Uri($"/api/renders/{render1}/frames/0", UriKind.Relative));
        }
        Assert.NotEqual(await FrameAsync(order), await FrameAsync(later));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(-1)]
    [InlineData(101)]
    public async Task A_film_is_repeated_a_sensible_number_of_times(int times)
    {
        await using var server = await TestServer.StartAsync();
        var id = (await OrderAsync(server, await server.NewShotAsync(), "0")).GetProperty("id").GetString()!;
        await DoneAsync(server, id);
        var (status, body) = await server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/film", new { times });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("times", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/renders/{id}/film")).Status);
    }

    [Fact]
    public async Task A_shot_that_was_put_away_is_listed_as_such_and_comes_back_with_its_history()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync("Pier");
        await server.EditAsync(id, 0, Lift(1), Lift(2));
        await server.SendAsync(HttpMethod.Delete, $"/api/shots/{id}");
        Assert.Equal(0, (await server.GetAsync("/api/shots")).GetArrayLength());
        Assert.Equal(id, (await server.GetAsync("/api/shots?deleted=true"))[0].GetProperty("id").GetString());
        await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/undelete");
        Assert.Equal(2, (await server.GetAsync($"/api/shots/{id}")).GetProperty("revision").GetInt32());
    }
}
