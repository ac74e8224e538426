using System.Diagnostics;
using System.Net;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Microsoft.AspNetCore.SignalR;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.Data.Sqlite;

namespace Bradymotus.Server.Tests;

/// <summary>What is acknowledged is there again, whatever happens in between.</summary>
public class FirmnessTests
{
    private static readonly ChannelAddress Height = new("sun", "transform.translate.y");

    private static SetValues Lift(double to) => new([new(Height, to)]);

    private static object Line(string? id, Edit edit) => JsonElement.Parse(ShotJson.Write<JournalEntry>(new EditEntry(edit) { Id = id }));

    private static Task<(HttpStatusCode Status, JsonElement Body)> SendAsync(TestServer server, string id, int revision, params object[] entries) =>
        server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", new { revision, entries });

    private static async Task<double> LiftedAsync(TestServer server, string id) => (await server.ShotAsync(id)).Channel(Height).Value;

    private static async Task InFolderAsync(Func<string, Task> use)
    {
        var folder = Directory.CreateTempSubdirectory("bradymotus-test-").FullName;
        try
        {
            await use(folder);
        }
        finally
        {
            SqliteConnection.ClearAllPools();
            Directory.Delete(folder, recursive: true);
        }
    }

    private static void Execute(string folder, string sql)
    {
        using var connection = new SqliteConnection($"Data Source={Path.Combine(folder, "bradymotus.db")}");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    /// <summary>The shot as a window makes it: from the document alone, without the server.</summary>
    private static History Replayed(JsonElement document)
    {
        var history = new History(ShotJson.ReadShot(document.GetProperty("base").GetRawText()), document.GetProperty("baseRevision").GetInt32());
        foreach (var entry in document.GetProperty("entries").EnumerateArray())
        {
            history.Append(ShotJson.Read<JournalEntry>(entry.GetProperty("entry").GetRawText(), "entry"));
        }
        return history;
    }

    [Fact]
    public async Task A_line_that_is_sent_again_is_taken_once()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        object[] lines = [Line("a", Lift(1)), Line("b", Lift(2))];
        await SendAsync(server, id, 0, lines);
        // The answer was lost: the same again, with one more.
        var (status, body) = await SendAsync(server, id, 0, [.. lines, Line("c", Lift(3))]);
        Assert.Equal((HttpStatusCode.OK, 3), (status, body.GetProperty("revision").GetInt32()));
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(server, id, 0, lines[0], lines[1], Line("c", Lift(3)))).Status);
        Assert.Equal(3, (await server.GetAsync($"/api/shots/{id}/journal")).GetArrayLength());
        // Of another window came one in between: what was missed says which were ours.
        await SendAsync(server, id, 3, Line("theirs", Lift(9)));
        var (late, missed) = await SendAsync(server, id, 2, Line("c", Lift(3)), Line("d", Lift(4)));
        Assert.Equal(HttpStatusCode.Conflict, late);
        Assert.Equal(["c", "theirs"], missed.GetProperty("entries").EnumerateArray().Select(e => e.GetProperty("entry").GetProperty("id").GetString()));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await SendAsync(server, id, 4, Line("x", Lift(1)), Line("x", Lift(2)))).Status);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await SendAsync(server, id, 4, Line(new string('x', 65), Lift(1)))).Status);
        Assert.Equal(HttpStatusCode.Conflict, (await SendAsync(server, id, 99, Line("y", Lift(1)))).Status);
    }

    /// <summary>Answers are cut off at random; what the journal holds in the end is each line once, in order.</summary>
    [Fact]
    public async Task Of_lines_whose_answers_are_cut_off_none_is_lost_and_none_is_doubled()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var dice = new Random(11);
        for (var i = 0; i < 60; i++)
        {
            for (var taken = false; !taken;)
            {
                using var stop = new CancellationTokenSource();
                if (dice.Next(2) == 0)
                {
                    stop.CancelAfter(TimeSpan.FromMilliseconds(dice.Next(6)));
                }
                try
                {
                    using var content = new StringContent(JsonSerializer.Serialize(new { revision = i, entries = new[] { Line($"l{i}", Lift(i)) } }), System.Text.Encoding.UTF8, "application/json");
                    using var answer = await server.Client.PostAsync(new Uri($"/api/shots/{id}/journal", UriKind.Relative), content, stop.Token);
                    taken = answer.StatusCode == HttpStatusCode.OK;
                    Assert.True(taken, await answer.Content.ReadAsStringAsync());
                }
                catch (OperationCanceledException)
                {
                    // Sent again.
                }
            }
        }
        var journal = await server.GetAsync($"/api/shots/{id}/journal");
        Assert.Equal(Enumerable.Range(0, 60).Select(i => $"l{i}"), journal.EnumerateArray().Select(e => e.GetProperty("entry").GetProperty("id").GetString()));
    }

    [Fact]
    public async Task A_way_far_back_can_be_followed_by_every_window_and_after_every_start() => await InFolderAsync(async folder =>
    {
        string id;
        await using (var server = await TestServer.StartAsync(folder))
        {
            id = await server.NewShotAsync();
            for (var i = 0; i < 13; i++)
            {
                await server.EditAsync(id, i * 100, [.. Enumerable.Range(i * 100 + 1, 100).Select(n => Lift(n))]);
            }
            Assert.Equal(HttpStatusCode.OK, (await SendAsync(server, id, 1300, new { kind = "restore", revision = 5 })).Status);
            await server.EditAsync(id, 1301, Lift(7777));
            Assert.Equal(HttpStatusCode.OK, (await SendAsync(server, id, 1302, new { kind = "restore", revision = 1301 })).Status);
            Assert.Equal(5, await LiftedAsync(server, id));
            Assert.Equal(5, Replayed(await server.GetAsync($"/api/shots/{id}")).Current.Channel(Height).Value);
        }
        await using var again = await TestServer.StartAsync(folder);
        Assert.Equal(5, await LiftedAsync(again, id));
        Assert.Equal(5, Replayed(await again.GetAsync($"/api/shots/{id}")).Current.Channel(Height).Value);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(again, id, 1303, new { kind = "restore", revision = 1302 })).Status);
        Assert.Equal(7777, await LiftedAsync(again, id));
    });

    [Fact]
    public async Task Small_pictures_outlive_the_server_and_are_those_of_all_that_is_the_same() => await InFolderAsync(async folder =>
    {
        static async Task<byte[]> PictureAsync(TestServer server, string id) => await server.Client.GetByteArrayAsync(new Uri($"/api/shots/{id}/thumbnail", UriKind.Relative));
        string Kept() => Assert.Single(Directory.GetFiles(Path.Combine(folder, "thumbnails")));
        string id;
        byte[] marked;
        await using (var server = await TestServer.StartAsync(folder))
        {
            id = await server.NewShotAsync();
            var made = await PictureAsync(server, id);
            Assert.Equal(made, await File.ReadAllBytesAsync(Kept()));
            // A byte behind the end of the picture tells it from one that is made anew.
            marked = [.. made, 1];
            await File.WriteAllBytesAsync(Kept(), marked);
            await File.WriteAllTextAsync(Path.Combine(folder, "thumbnails", $"x.png.{Guid.NewGuid():n}.part"), "half");
        }
        await using var again = await TestServer.StartAsync(folder);
        Assert.Equal(marked, await PictureAsync(again, id));
        // Another state has another; with the change taken back it is the old one.
        await again.EditAsync(id, 0, new SetValues([new(Height, 9)]));
        var other = await PictureAsync(again, id);
        Assert.NotEqual(marked, other);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(again, id, 1, new { kind = "restore", revision = 0 })).Status);
        Assert.Equal(marked, await PictureAsync(again, id));
        Assert.Equal(2, Directory.GetFiles(Path.Combine(folder, "thumbnails")).Length);
        // One that cannot be read is made again.
        Directory.Delete(Path.Combine(folder, "thumbnails"), true);
        await again.EditAsync(id, 2, new SetValues([new(Height, 8)]));
        Assert.Equal([0x89, 0x50, 0x4E, 0x47], (await PictureAsync(again, id))[..4]);
    });

    [Fact]
    public async Task An_old_change_can_be_left_out_after_a_start() => await InFolderAsync(async folder =>
    {
        ChannelAddress side = new("sun", "transform.translate.x");
        async Task<(double, double)> NowAsync(TestServer server)
        {
            var shot = await server.ShotAsync(id: (await server.GetAsync("/api/shots"))[0].GetProperty("id").GetString()!);
            return (shot.Channel(side).Value, shot.Channel(Height).Value);
        }
        string id;
        await using (var server = await TestServer.StartAsync(folder))
        {
            id = await server.NewShotAsync();
            await server.EditAsync(id, 0, [new SetValues([new(side, 3)]), .. Enumerable.Range(2, 449).Select(n => Lift(n))]);
            Assert.Equal((3, 450), await NowAsync(server));
        }
        // The snapshot that a start begins with is younger than the change.
        await using (var again = await TestServer.StartAsync(folder))
        {
            Assert.Equal(HttpStatusCode.OK, (await SendAsync(again, id, 450, new { kind = "leaveOut", revision = 1 })).Status);
            Assert.Equal((0, 450), await NowAsync(again));
        }
        await using var third = await TestServer.StartAsync(folder);
        Assert.Equal((0, 450), await NowAsync(third));
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(third, id, 451, new { kind = "leaveOut", revision = 451 })).Status);
        Assert.Equal((3, 450), await NowAsync(third));
    });

    [Fact]
    public async Task Hundreds_of_undos_across_snapshots_are_read_again_as_they_were() => await InFolderAsync(async folder =>
    {
        string id;
        double expected;
        await using (var server = await TestServer.StartAsync(folder))
        {
            id = await server.NewShotAsync();
            await server.EditAsync(id, 0, [.. Enumerable.Range(1, 399).Select(n => Lift(n))]);
            await SendAsync(server, id, 399, [.. Enumerable.Range(0, 399).Reverse().Select(n => (object)new { kind = "restore", revision = n })]);
            var dice = new Random(3);
            for (var i = 0; i < 12; i++)
            {
                await SendAsync(server, id, 798 + 2 * i, new { kind = "restore", revision = dice.Next(1, 300) }, Line(null, Lift(1000 + i)));
            }
            expected = await LiftedAsync(server, id);
        }
        await using var again = await TestServer.StartAsync(folder);
        Assert.Equal(expected, await LiftedAsync(again, id));
        Assert.Equal(expected, Replayed(await again.GetAsync($"/api/shots/{id}")).Current.Channel(Height).Value);
    });

    [Fact]
    public async Task A_start_that_was_killed_while_it_migrated_does_not_block_the_next() => await InFolderAsync(async folder =>
    {
        await (await TestServer.StartAsync(folder)).DisposeAsync();
        Execute(folder, """CREATE TABLE IF NOT EXISTS "__EFMigrationsLock" ("Id" INTEGER NOT NULL PRIMARY KEY, "Timestamp" TEXT NOT NULL); INSERT INTO "__EFMigrationsLock" VALUES (1, '2026-01-01');""");
        await using var server = await TestServer.StartAsync(folder).WaitAsync(TimeSpan.FromSeconds(60));
        Assert.Equal(0, (await server.GetAsync("/api/shots")).GetArrayLength());
    });

    [Fact]
    public async Task A_second_server_on_the_same_folder_is_refused_until_the_first_is_gone() => await InFolderAsync(async folder =>
    {
        await using (await TestServer.StartAsync(folder))
        {
            Assert.Contains("in use by another server", (await Assert.ThrowsAsync<Refusal>(() => TestServer.StartAsync(folder))).Message, StringComparison.Ordinal);
        }
        await (await TestServer.StartAsync(folder)).DisposeAsync();
    });

    [Fact]
    public async Task Lines_that_somebody_else_has_written_are_told_instead_of_written_over() => await InFolderAsync(async folder =>
    {
        await using var server = await TestServer.StartAsync(folder);
        var id = await server.NewShotAsync();
        await SendAsync(server, id, 0, Line("a", Lift(1)));
        var line = ShotJson.Write<JournalEntry>(new EditEntry(Lift(50)) { Id = "other" }).Replace("'", "''", StringComparison.Ordinal);
        Execute(folder, $"INSERT INTO Journal (ShotId, Revision, EntryId, Json, Unreadable, Label, Time) VALUES ('{id}', 2, 'other', '{line}', 0, 'x', '2026-01-01 00:00:00'); UPDATE Shots SET Revision = 2 WHERE Id = '{id}'");
        var (status, body) = await SendAsync(server, id, 1, Line("b", Lift(2)));
        Assert.Equal(HttpStatusCode.Conflict, status);
        Assert.Equal(2, body.GetProperty("revision").GetInt32());
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(server, id, 2, Line("b", Lift(2)))).Status);
        Assert.Equal(2, await LiftedAsync(server, id));
    });

    [Fact]
    public async Task A_line_that_cannot_be_read_does_not_take_the_shot_along() => await InFolderAsync(async folder =>
    {
        string id;
        await using (var server = await TestServer.StartAsync(folder))
        {
            id = await server.NewShotAsync();
            await server.EditAsync(id, 0, Lift(1), Lift(2), Lift(3), Lift(4));
        }
        Execute(folder, $"UPDATE Journal SET Json = '{{\"kind\":\"edit\",\"ed' WHERE ShotId = '{id}' AND Revision = 3");
        await using (var server = await TestServer.StartAsync(folder))
        {
            var document = await server.GetAsync($"/api/shots/{id}");
            Assert.Contains("newest 2 changes", document.GetProperty("notice").GetString(), StringComparison.Ordinal);
            Assert.Equal(2, Replayed(document).Current.Channel(Height).Value);
            Assert.Equal(2, await LiftedAsync(server, id));
            Assert.Equal(4, document.GetProperty("revision").GetInt32());
            Assert.Equal(HttpStatusCode.OK, (await server.EditAsync(id, 4, Lift(8))).Status);
            Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/duplicate")).Status);
            Assert.Equal(5, (await server.GetAsync($"/api/shots/{id}/journal")).GetArrayLength());
        }
        await using var again = await TestServer.StartAsync(folder);
        Assert.Equal(8, Replayed(await again.GetAsync($"/api/shots/{id}")).Current.Channel(Height).Value);
        Assert.Equal(JsonValueKind.Null, (await again.GetAsync($"/api/shots/{id}")).GetProperty("notice").ValueKind);
        // The line itself is still there.
        Execute(folder, $"UPDATE Journal SET Label = 'seen' WHERE ShotId = '{id}' AND Revision = 3 AND Json LIKE '%\"ed'");
    });

    /// <summary>
    /// On a file system that is really full. Mounting one takes rights that not every machine gives. A connection that is opened there fails
    /// in another way than one that was open before.
    /// </summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_full_disk_loses_nothing_and_says_so(bool isOpenedThere)
    {
        await InFolderAsync(async folder =>
        {
            var mount = Process.Start(new ProcessStartInfo("mount", ["-t", "tmpfs", "-o", "size=3m", "tmpfs", folder]) { RedirectStandardError = true });
            await mount!.WaitForExitAsync();
            Assert.SkipWhen(mount.ExitCode != 0, "A small file system cannot be mounted here.");
            try
            {
                var full = Path.Combine(folder, "filler");
                string id;
                var taken = 0;
                await using (var server = await TestServer.StartAsync(folder))
                {
                    id = await server.NewShotAsync();
                    if (isOpenedThere)
                    {
                        // The last connection takes what the database keeps beside its file with it, and there is no room to make it again.
                        SqliteConnection.ClearAllPools();
                    }
                    Fill(full);
                    (HttpStatusCode Status, JsonElement Body) answer = default;
                    for (var i = 0; i < 400 && answer.Status is HttpStatusCode.OK or 0; i++)
                    {
                        answer = await SendAsync(server, id, taken, Line($"l{i}", Lift(i + 1)));
                        taken += answer.Status == HttpStatusCode.OK ? 1 : 0;
                    }
                    Assert.Equal(HttpStatusCode.InsufficientStorage, answer.Status);
                    Assert.Contains("full", answer.Body.GetProperty("detail").GetString(), StringComparison.Ordinal);
                    // There is room again: the same line is taken, and nothing is missing.
                    File.Delete(full);
                    Assert.Equal(HttpStatusCode.OK, (await SendAsync(server, id, taken, Line("again", Lift(5000)))).Status);
                }
                await using (var server = await TestServer.StartAsync(folder))
                {
                    Assert.Equal(5000, await LiftedAsync(server, id));
                    Assert.Equal(taken + 1, (await server.GetAsync($"/api/shots/{id}/journal")).GetArrayLength());
                }
            }
            finally
            {
                SqliteConnection.ClearAllPools();
                await Process.Start("umount", ["-l", folder])!.WaitForExitAsync();
            }
        });
    }

    /// <summary>Writes into a file until there is no room for a page more.</summary>
    private static void Fill(string path)
    {
        using var file = new FileStream(path, FileMode.Append, FileAccess.Write, FileShare.Read, bufferSize: 0);
        Assert.ThrowsAny<IOException>(() =>
        {
            for (var i = 0; i < 10_000; i++)
            {
                file.Write(new byte[4096]);
            }
        });
    }

    [Fact]
    public async Task A_shot_that_was_put_away_takes_no_edits_and_no_renders()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync("Pier");
        await server.SendAsync(HttpMethod.Delete, $"/api/shots/{id}");
        foreach (var (status, body) in new[] { await server.EditAsync(id, 0, Lift(1)), await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = id, frames = "0", width = 16, height = 9, quality = "draft" }) })
        {
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains("in the trash", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task Times_say_their_zone()
    {
        await using var server = await TestServer.StartAsync();
        await server.NewShotAsync();
        var changed = (await server.GetAsync("/api/shots"))[0].GetProperty("changed").GetString()!;
        Assert.EndsWith("Z", changed, StringComparison.Ordinal);
        Assert.True(Math.Abs((DateTimeOffset.Parse(changed, System.Globalization.CultureInfo.InvariantCulture) - DateTimeOffset.UtcNow).TotalHours) < 0.5);
    }

    /// <summary>Two servers in one process: each renders its own orders into its own folder.</summary>
    [Fact]
    public async Task Servers_beside_each_other_do_not_take_each_others_jobs()
    {
        await using var one = await TestServer.StartAsync();
        await using var two = await TestServer.StartAsync();
        var orders = new List<(TestServer Server, string Id)>();
        foreach (var server in new[] { one, two, one, two })
        {
            var shot = await server.NewShotAsync();
            orders.Add((server, (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-2", width = 16, height = 8, quality = "draft" })).Body.GetProperty("id").GetString()!));
        }
        foreach (var (server, id) in orders)
        {
            Assert.Equal("done", await FinishedAsync(server, id));
            Assert.Equal(3, Directory.GetFiles(Path.Combine(server.Folder, "renders", id)).Length);
        }
    }

    /// <summary>News and answers come by two ways. Whoever goes by the number of a view ends with the truth, and what is marked to be kept stays so.</summary>
    [Fact]
    public async Task What_is_told_of_a_render_has_an_order()
    {
        await using var server = await TestServer.StartAsync();
        var shot = await server.NewShotAsync();
        await using var hub = new HubConnectionBuilder().WithUrl(new Uri(server.Client.BaseAddress!, "/live")).Build();
        var heard = System.Threading.Channels.Channel.CreateUnbounded<JsonElement>();
        hub.On<JsonElement>("render", v => heard.Writer.TryWrite(v));
        await hub.StartAsync();
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        var views = new List<JsonElement>();
        var (_, ordered) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-29", width = 320, height = 180, quality = "draft" });
        var id = ordered.GetProperty("id").GetString()!;
        views.Add(ordered);
        while (views[^1].GetProperty("done").GetInt32() == 0)
        {
            views.Add(await heard.Reader.ReadAsync(limit.Token));
        }
        // Marked while it renders: the queue must not put back what it read when it began.
        var (_, marked) = await server.SendAsync(HttpMethod.Put, $"/api/renders/{id}/kept", new { kept = true });
        views.Add(marked);
        while (views[^1].GetProperty("state").GetString() != "done")
        {
            views.Add(await heard.Reader.ReadAsync(limit.Token));
        }
        // What is kept is not removed.
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await server.SendAsync(HttpMethod.Delete, $"/api/renders/{id}")).Status);
        var (_, freed) = await server.SendAsync(HttpMethod.Put, $"/api/renders/{id}/kept", new { kept = false });
        views.Add(freed);
        var (_, away) = await server.SendAsync(HttpMethod.Delete, $"/api/renders/{id}");
        views.Add(away);
        Assert.True(away.GetProperty("removed").GetBoolean());
        var inOrder = views.OrderBy(v => v.GetProperty("version").GetInt64()).ToList();
        var (from, to) = (marked.GetProperty("version").GetInt64(), freed.GetProperty("version").GetInt64());
        Assert.All(inOrder, v => Assert.Equal(v.GetProperty("version").GetInt64() >= from && v.GetProperty("version").GetInt64() < to, v.GetProperty("kept").GetBoolean()));
        // Forwards only, in frames as in states.
        Assert.Equal(inOrder.Select(v => v.GetProperty("done").GetInt32()).Order(), inOrder.Select(v => v.GetProperty("done").GetInt32()));
        string[] states = ["queued", "running", "done"];
        Assert.Equal(inOrder.Select(Place).Order(), inOrder.Select(Place));
        int Place(JsonElement v) => Array.IndexOf(states, v.GetProperty("state").GetString());
    }

    /// <summary>However quickly somebody changes their mind: the queue goes on, and what was stopped is stopped.</summary>
    [Fact]
    public async Task Stopping_and_resuming_in_quick_succession_leaves_the_queue_going()
    {
        await using var server = await TestServer.StartAsync();
        var shot = await server.NewShotAsync();
        var id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-999", width = 320, height = 180, quality = "draft" })).Body.GetProperty("id").GetString()!;
        for (var i = 0; i < 30; i++)
        {
            await server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/cancel");
            await Task.Delay(i % 5);
            Assert.Equal("cancelled", await StateAsync());
            await server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/resume");
            await Task.Delay(i % 7);
            Assert.Contains(await StateAsync(), (string[])["queued", "running"]);
        }
        await Task.WhenAll(Enumerable.Range(0, 8).Select(n => server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/{(n % 2 == 0 ? "cancel" : "resume")}")));
        await server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/cancel");
        var next = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-1", width = 16, height = 8, quality = "draft" })).Body.GetProperty("id").GetString()!;
        Assert.Equal("done", await FinishedAsync(server, next));
        Assert.Equal("cancelled", await StateAsync());
        await server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/resume");
        while (await StateAsync() != "running")
        {
            await Task.Delay(20);
        }
        async Task<string> StateAsync() => (await server.GetAsync($"/api/renders/{id}")).GetProperty("state").GetString()!;
    }

    internal static async Task<string> FinishedAsync(TestServer server, string render)
    {
        while (true)
        {
            var state = (await server.GetAsync($"/api/renders/{render}")).GetProperty("state").GetString()!;
            if (state is "done" or "failed" or "cancelled")
            {
                return state;
            }
            await Task.Delay(30);
        }
    }

    [Fact]
    public async Task A_sequence_can_be_put_away_and_brought_back()
    {
        await using var server = await TestServer.StartAsync();
        var shot = await server.NewShotAsync();
        var id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0", width = 16, height = 8, quality = "draft" })).Body.GetProperty("id").GetString()!;
        await FinishedAsync(server, id);
        var (status, away) = await server.SendAsync(HttpMethod.Delete, $"/api/renders/{id}");
        Assert.Equal((HttpStatusCode.OK, true), (status, away.GetProperty("removed").GetBoolean()));
        Assert.Equal(0, (await server.GetAsync("/api/renders")).GetArrayLength());
        Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/undelete")).Status);
        Assert.Equal(1, (await server.GetAsync("/api/renders")).GetArrayLength());
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Delete, "/api/renders/none")).Status);
    }

    [Fact]
    public async Task A_frame_that_has_ended_the_program_twice_is_not_tried_a_third_time() => await InFolderAsync(async folder =>
    {
        string id;
        await using (var server = await TestServer.StartAsync(folder))
        {
            var shot = await server.NewShotAsync();
            id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-1", width = 16, height = 8, quality = "draft" })).Body.GetProperty("id").GetString()!;
            await FinishedAsync(server, id);
        }
        // As kills leave it that ended three starts in the middle of frame 1: before the machine was started anew they say nothing of the scene, nor do two.
        foreach (var (boot, begun) in new[] { ("'another'", 3), ("Boot", 2) })
        {
            Execute(folder, $"UPDATE Renders SET State = 'Running', Boot = {boot}; UPDATE RenderFrames SET State = 'Queued', Begun = {begun} WHERE Frame = 1");
            await using var harmless = await TestServer.StartAsync(folder);
            Assert.Equal("done", await FinishedAsync(harmless, id));
        }
        Execute(folder, $"UPDATE Renders SET State = 'Running'; UPDATE RenderFrames SET State = 'Queued', Begun = 3 WHERE Frame = 1");
        await using var again = await TestServer.StartAsync(folder);
        Assert.Equal("failed", await FinishedAsync(again, id));
        Assert.Contains("Frame 1 has ended the program 3 times", (await again.GetAsync($"/api/renders/{id}")).GetProperty("message").GetString(), StringComparison.Ordinal);
        // Who looks at it and resumes has it tried again.
        await again.SendAsync(HttpMethod.Post, $"/api/renders/{id}/resume");
        Assert.Equal("done", await FinishedAsync(again, id));
    });

    [Fact]
    public async Task Films_made_at_the_same_time_do_not_disturb_each_other_and_leave_nothing_behind() => await InFolderAsync(async folder =>
    {
        await using var server = await TestServer.StartAsync(folder);
        var shot = await server.NewShotAsync();
        var id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-3", width = 32, height = 16, quality = "draft" })).Body.GetProperty("id").GetString()!;
        await FinishedAsync(server, id);
        var answers = await Task.WhenAll(Enumerable.Range(1, 3).Select(n => server.SendAsync(HttpMethod.Post, $"/api/renders/{id}/film", new { times = n })));
        Assert.All(answers, a => Assert.Equal(HttpStatusCode.OK, a.Status));
        Assert.Equal(["film.mp4"], Directory.GetFiles(Path.Combine(folder, "renders", id)).Select(Path.GetFileName).Where(f => !f!.EndsWith(".png", StringComparison.Ordinal)));
        await server.DisposeAsync();
        // What a kill has left is cleared away at the next start.
        var left = Path.Combine(folder, "renders", id, "film.mp4.0123456789abcdef0123456789abcdef.part.mp4");
        await File.WriteAllTextAsync(left, "half");
        await (await TestServer.StartAsync(folder)).DisposeAsync();
        Assert.False(File.Exists(left));
    });

    /// <summary>Names that look like what is half-written, and a link that leads out of the data folder.</summary>
    [Fact]
    public async Task A_start_erases_nothing_that_is_finished_and_nothing_of_others() => await InFolderAsync(async folder =>
    {
        var outside = Directory.CreateTempSubdirectory("bradymotus-outside-");
        try
        {
            string id;
            await using (var server = await TestServer.StartAsync(folder))
            {
                var shot = await server.NewShotAsync();
                id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-2", width = 16, height = 8, quality = "draft", fileName = "take.part_##.png" })).Body.GetProperty("id").GetString()!;
                Assert.Equal("done", await FinishedAsync(server, id));
            }
            var foreign = Path.Combine(outside.FullName, "my.0123456789abcdef0123456789abcdef.part");
            await File.WriteAllTextAsync(foreign, "mine");
            Directory.CreateSymbolicLink(Path.Combine(folder, "renders", "link"), outside.FullName);
            await using var again = await TestServer.StartAsync(folder);
            Assert.True(File.Exists(foreign));
            Assert.Equal(3, Directory.GetFiles(Path.Combine(folder, "renders", id), "take.part_*.png").Length);
            Assert.Equal("done", await FinishedAsync(again, id));
        }
        finally
        {
            outside.Delete(recursive: true);
        }
    });

    [Fact]
    public async Task A_picture_that_is_gone_is_said_and_rendered_again_when_one_resumes() => await InFolderAsync(async folder =>
    {
        string id;
        await using (var server = await TestServer.StartAsync(folder))
        {
            var shot = await server.NewShotAsync();
            id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-2", width = 16, height = 8, quality = "draft", fileName = "a_##.png" })).Body.GetProperty("id").GetString()!;
            Assert.Equal("done", await FinishedAsync(server, id));
        }
        var file = Path.Combine(folder, "renders", id, "a_01.png");
        File.Delete(file);
        await using var again = await TestServer.StartAsync(folder);
        var view = await again.GetAsync($"/api/renders/{id}");
        Assert.Equal(("failed", 2), (view.GetProperty("state").GetString(), view.GetProperty("done").GetInt32()));
        Assert.Contains("resume", view.GetProperty("message").GetString(), StringComparison.Ordinal);
        await again.SendAsync(HttpMethod.Post, $"/api/renders/{id}/resume");
        Assert.Equal("done", await FinishedAsync(again, id));
        Assert.True(File.Exists(file));
    });

    [Fact]
    public async Task A_kept_sequence_is_not_removed_and_an_older_order_still_has_its_shot() => await InFolderAsync(async folder =>
    {
        string id;
        await using (var server = await TestServer.StartAsync(folder))
        {
            var shot = await server.NewShotAsync();
            id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-1", width = 16, height = 8, quality = "draft" })).Body.GetProperty("id").GetString()!;
            Assert.Equal("done", await FinishedAsync(server, id));
            await server.SendAsync(HttpMethod.Put, $"/api/renders/{id}/kept", new { kept = true });
            var (status, body) = await server.SendAsync(HttpMethod.Delete, $"/api/renders/{id}");
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains("kept", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
        // As an earlier version has left it: the shot in the row itself, a frame to do, and in the trash for long although it is kept.
        var asset = Directory.GetFiles(Path.Combine(folder, "assets"), "*.json").Single();
        var json = (await File.ReadAllTextAsync(asset)).Replace("'", "''", StringComparison.Ordinal);
        File.Delete(asset);
        Execute(folder, $"UPDATE Renders SET ShotJson = '{json}', ShotAsset = NULL, State = 'Running'; UPDATE RenderFrames SET State = 'Queued' WHERE Frame = 1");
        await using (var again = await TestServer.StartAsync(folder))
        {
            Assert.Equal("done", await FinishedAsync(again, id));
            Assert.True(File.Exists(asset));
        }
        Execute(folder, "UPDATE Renders SET Deleted = '2020-01-01'");
        await (await TestServer.StartAsync(folder)).DisposeAsync();
        Assert.Equal(2, Directory.GetFiles(Path.Combine(folder, "renders", id), "*.png").Length);
    });

    /// <summary>Many shots asked for at once, far more than are kept ready: none of the requests fails, and no edit is lost.</summary>
    [Fact]
    public async Task Many_shots_opened_at_once_are_all_there()
    {
        await using var server = await TestServer.StartAsync();
        var ids = new List<string>();
        for (var i = 0; i < 30; i++)
        {
            ids.Add(await server.NewShotAsync());
        }
        var dice = new Random(7);
        var order = Enumerable.Range(0, 720).Select(i => ids[dice.Next(ids.Count)]).ToList();
        await Parallel.ForEachAsync(order, new ParallelOptions { MaxDegreeOfParallelism = 24 }, async (id, cancel) =>
        {
            using var answer = await server.Client.GetAsync(new Uri($"/api/shots/{id}", UriKind.Relative), cancel);
            Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        });
        // One that is closed and opened all the time takes every edit once.
        await Parallel.ForEachAsync(Enumerable.Range(0, 60), new ParallelOptions { MaxDegreeOfParallelism = 12 }, async (n, _) =>
        {
            var (status, _) = await server.SendAsync(HttpMethod.Put, $"/api/shots/{ids[n % 30]}/name", new { name = $"Named {n}" });
            Assert.Equal(HttpStatusCode.OK, status);
        });
        foreach (var id in ids)
        {
            Assert.Equal(2, (await server.GetAsync($"/api/shots/{id}")).GetProperty("revision").GetInt32());
        }
    }

    [Fact]
    public async Task A_film_says_how_far_it_is_and_one_that_is_cancelled_leaves_nothing_behind() => await InFolderAsync(async folder =>
    {
        await using var server = await TestServer.StartAsync(folder);
        var shot = await server.NewShotAsync();
        var id = (await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = shot, frames = "0-7", width = 960, height = 540, quality = "draft" })).Body.GetProperty("id").GetString()!;
        await FinishedAsync(server, id);
        await using var hub = new HubConnectionBuilder().WithUrl(new Uri(server.Client.BaseAddress!, "/live")).Build();
        var parts = System.Threading.Channels.Channel.CreateUnbounded<double>();
        hub.On<string, double>("film", (render, part) => parts.Writer.TryWrite(render == id ? part : double.NaN));
        await hub.StartAsync();
        using var hand = new CancellationTokenSource();
        using var content = new StringContent("{\"times\":100}", System.Text.Encoding.UTF8, "application/json");
        var film = server.Client.PostAsync($"/api/renders/{id}/film", content, hand.Token);
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        Assert.InRange(await parts.Reader.ReadAsync(limit.Token), 0, 1);
        await hand.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => film);
        bool IsClear() => Directory.GetFiles(Path.Combine(folder, "renders", id), "*.part.*").Length == 0;
        while (!IsClear())
        {
            await Task.Delay(20, limit.Token);
        }
        // Eight hundred pictures are not made in the time that the first word of them takes.
        Assert.False(File.Exists(Path.Combine(folder, "renders", id, "film.mp4")));
    });

    [Fact]
    public async Task A_window_watches_one_shot_and_nothing_else()
    {
        await using var server = await TestServer.StartAsync();
        var (one, two) = (await server.NewShotAsync(), await server.NewShotAsync());
        await using var hub = new HubConnectionBuilder().WithUrl(new Uri(server.Client.BaseAddress!, "/live")).Build();
        var heard = System.Threading.Channels.Channel.CreateUnbounded<string>();
        hub.On<string, int>("journal", (shot, _) => heard.Writer.TryWrite(shot));
        await hub.StartAsync();
        foreach (var odd in new[] { new string('x', 60_000), "", "../x", "a b" })
        {
            await Assert.ThrowsAsync<HubException>(() => hub.InvokeAsync("Watch", odd));
        }
        await hub.InvokeAsync("Watch", one);
        await hub.InvokeAsync("Watch", two);
        await server.EditAsync(one, 0, Lift(1));
        await server.EditAsync(two, 0, Lift(1));
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        Assert.Equal(two, await heard.Reader.ReadAsync(limit.Token));
    }

    [Fact]
    public async Task Pages_are_told_to_run_nothing_but_our_own_files_and_other_sites_get_no_pictures()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        using var answer = await server.Client.GetAsync(new Uri("/healthz", UriKind.Relative));
        Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
        Assert.Contains("frame-ancestors 'none'", answer.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);
        using var foreign = new HttpRequestMessage(HttpMethod.Get, $"/api/shots/{id}/thumbnail");
        foreign.Headers.Add("Sec-Fetch-Site", "cross-site");
        foreign.Headers.Add("Sec-Fetch-Mode", "no-cors");
        using var refused = await server.Client.SendAsync(foreign);
        Assert.Equal(HttpStatusCode.Forbidden, refused.StatusCode);
        using var link = new HttpRequestMessage(HttpMethod.Get, "/healthz");
        link.Headers.Add("Sec-Fetch-Site", "cross-site");
        link.Headers.Add("Sec-Fetch-Mode", "navigate");
        using var followed = await server.Client.SendAsync(link);
        Assert.Equal(HttpStatusCode.OK, followed.StatusCode);
    }
}
