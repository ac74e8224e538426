using System.Collections.Immutable;
using System.Net;
using System.Text.Json;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Server.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Bradymotus.Server.Tests;

/// <summary>What nobody can come to any more goes, and nothing else.</summary>
public class HousekeepingTests
{
    private static readonly DateTime LongAgo = DateTime.UtcNow.AddDays(-100);

    private static Task SweepAsync(TestServer server) => server.App.Services.GetRequiredService<Housekeeping>().SweepAsync(default);

    private static async Task<string> PictureAsync(TestServer server, byte shade)
    {
        var png = new Render.Pictures.Picture(new(2, 2), [.. Enumerable.Repeat(shade, 16)]).ToPng();
        using var answer = await server.Client.PostAsync(new Uri("/api/pictures?name=a.png", UriKind.Relative), new ByteArrayContent(png));
        return JsonElement.Parse(await answer.Content.ReadAsStringAsync()).GetProperty("asset").GetString()!;
    }

    private static string FileOf(TestServer server, string asset) => Path.Combine(server.Folder, "assets", asset + ".png");

    private static AddNodes Plane(string id, string asset) => new([new MeshNode { Id = id, Name = id, Shape = new PlaneShape(1, 1), Material = $"m-{id}" }],
        [new($"m-{id}", id, ImmutableSortedDictionary<string, Channel>.Empty) { Maps = [new(MapSlot.Color, new PictureSource(asset, "a.png", 2, 2))] }]);

    [Fact]
    public async Task Bytes_that_no_state_of_any_shot_refers_to_go_after_two_weeks_and_no_others()
    {
        await using var server = await TestServer.StartAsync();
        var (now, undone, trashed, rendered, never, young) = (await PictureAsync(server, 10), await PictureAsync(server, 20), await PictureAsync(server, 30), await PictureAsync(server, 40), await PictureAsync(server, 50), await PictureAsync(server, 60));
        var id = await server.NewShotAsync();
        Assert.Equal(HttpStatusCode.OK, (await server.EditAsync(id, 0, Plane("a", now), Plane("b", undone), Plane("c", rendered))).Status);
        // Taken back, and gone from the shot; but one can go back to it.
        await server.EditAsync(id, 3, new RemoveNodes(["b"]));
        var other = await server.NewShotAsync("Other");
        await server.EditAsync(other, 0, Plane("a", trashed));
        await server.SendAsync(HttpMethod.Delete, $"/api/shots/{other}");
        Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = id, frames = "0", width = 16, height = 9, quality = "draft" })).Status);
        var foreign = Path.Combine(server.Folder, "assets", "notes.png");
        await File.WriteAllTextAsync(foreign, "mine");
        foreach (var file in Directory.GetFiles(Path.Combine(server.Folder, "assets")).Except([FileOf(server, young)]))
        {
            File.SetLastWriteTimeUtc(file, LongAgo);
        }
        await SweepAsync(server);
        Assert.False(File.Exists(FileOf(server, never)));
        Assert.All([now, undone, trashed, rendered, young], a => Assert.True(File.Exists(FileOf(server, a))));
        Assert.True(File.Exists(foreign));
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/assets/{never}")).Status);
        // It can be sent again, and a shot can refer to it then.
        Assert.Equal(never, await PictureAsync(server, 50));
        Assert.Equal(HttpStatusCode.OK, (await server.EditAsync(id, 4, Plane("d", never))).Status);
    }

    [Fact]
    public async Task What_was_sent_again_counts_as_new()
    {
        await using var server = await TestServer.StartAsync();
        var asset = await PictureAsync(server, 10);
        File.SetLastWriteTimeUtc(FileOf(server, asset), LongAgo);
        Assert.Equal(asset, await PictureAsync(server, 10));
        await SweepAsync(server);
        Assert.True(File.Exists(FileOf(server, asset)));
    }

    [Fact]
    public async Task Of_states_that_are_kept_whole_few_stay_and_every_old_state_can_still_be_gone_back_to()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        for (var i = 0; i < 24; i++)
        {
            var edits = Enumerable.Range(200 * i, 200).Select(n => (Edit)new SetValues([new(new("sun", "transform.translate.y"), n)]));
            Assert.Equal(HttpStatusCode.OK, (await server.EditAsync(id, 200 * i, [.. edits])).Status);
        }
        async Task<List<int>> KeptAsync()
        {
            await using var db = await server.App.Services.GetRequiredService<IDbContextFactory<StoreContext>>().CreateDbContextAsync();
            return await db.Snapshots.Where(s => s.ShotId == id).OrderBy(s => s.Revision).Select(s => s.Revision).ToListAsync();
        }
        Assert.Equal(25, (await KeptAsync()).Count);
        await SweepAsync(server);
        Assert.Equal([0, 2000, .. Enumerable.Range(15, 10).Select(i => 200 * i)], await KeptAsync());
        var revision = 4800;
        foreach (var to in new[] { 1, 700, 2100, 4700 })
        {
            var (status, _) = await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", new { revision = revision++, entries = new[] { new { kind = "restore", revision = to } } });
            Assert.Equal(HttpStatusCode.OK, status);
            Assert.Equal(to - 1, (await server.ShotAsync(id)).Node("sun").Channels!["transform.translate.y"].Value);
        }
    }

    [Fact]
    public async Task The_trash_is_emptied_when_somebody_says_so_and_the_database_shrinks()
    {
        await using var server = await TestServer.StartAsync();
        var (kept, back, gone) = (await server.NewShotAsync("Kept"), await server.NewShotAsync("Back"), await server.NewShotAsync("Gone"));
        await using (var db = await server.App.Services.GetRequiredService<IDbContextFactory<StoreContext>>().CreateDbContextAsync())
        {
            // And nobody could open it any more.
            await db.Snapshots.Where(s => s.ShotId == gone).ExecuteDeleteAsync();
            db.Snapshots.Add(new() { ShotId = gone, Revision = 9, Json = new string(' ', 40 << 20) });
            await db.SaveChangesAsync();
        }
        await server.SendAsync(HttpMethod.Delete, $"/api/shots/{back}");
        await server.SendAsync(HttpMethod.Delete, $"/api/shots/{gone}");
        await server.SendAsync(HttpMethod.Post, $"/api/shots/{back}/undelete");
        var before = await server.GetAsync("/api/room");
        Assert.Equal(1, before.GetProperty("trashCount").GetInt32());
        Assert.True(before.GetProperty("trash").GetInt64() >= 40 << 20 && before.GetProperty("database").GetInt64() >= 40 << 20, before.GetRawText());
        await SweepAsync(server);
        Assert.Equal(1, (await server.GetAsync("/api/shots?deleted=true")).GetArrayLength());

        Assert.Equal(HttpStatusCode.NoContent, (await server.SendAsync(HttpMethod.Delete, "/api/shots/trash")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/shots/{gone}")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Post, $"/api/shots/{gone}/undelete")).Status);
        Assert.Equal(["Back", "Kept"], (await server.GetAsync("/api/shots")).EnumerateArray().Select(s => s.GetProperty("name").GetString()!).Order());
        var after = await server.GetAsync("/api/room");
        Assert.Equal((0, 0), (after.GetProperty("trashCount").GetInt32(), after.GetProperty("trash").GetInt32()));
        Assert.True(after.GetProperty("database").GetInt64() < 8 << 20, after.GetRawText());
    }

    [Fact]
    public async Task What_was_rendered_stays_but_what_was_put_into_the_trash_a_day_ago_and_is_not_kept()
    {
        await using var server = await TestServer.StartAsync();
        var shot = await server.NewShotAsync();
        async Task<string> OrderAsync() => (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0", width = 16, height = 9, quality = "draft" })).Body.GetProperty("id").GetString()!;
        var (finished, today, old) = (await OrderAsync(), await OrderAsync(), await OrderAsync());
        foreach (var id in new[] { finished, today, old })
        {
            for (var i = 0; (await server.GetAsync($"/api/renders/{id}")).GetProperty("state").GetString() != "done"; i++)
            {
                Assert.True(i < 600);
                await Task.Delay(50);
            }
        }
        await server.SendAsync(HttpMethod.Delete, $"/api/renders/{today}");
        await server.SendAsync(HttpMethod.Delete, $"/api/renders/{old}");
        await using (var db = await server.App.Services.GetRequiredService<IDbContextFactory<StoreContext>>().CreateDbContextAsync())
        {
            await db.Renders.Where(r => r.Id == old).ExecuteUpdateAsync(s => s.SetProperty(r => r.Deleted, LongAgo));
        }
        await SweepAsync(server);
        Assert.Equal([true, true, false], new[] { finished, today, old }.Select(id => Directory.Exists(Path.Combine(server.Folder, "renders", id))));
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/renders/{old}")).Status);
        await server.SendAsync(HttpMethod.Post, $"/api/renders/{today}/undelete");
        Assert.Equal(1, (await server.GetAsync($"/api/renders/{today}")).GetProperty("done").GetInt32());
    }
}
