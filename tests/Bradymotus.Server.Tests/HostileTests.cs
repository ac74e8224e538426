using System.Diagnostics;
using System.Net;
using System.Text;
using System.Text.Json;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Server.Tests;

/// <summary>Requests that nobody of good will sends. Each gets one sentence, nothing changes, and the server goes on.</summary>
public class HostileTests
{
    private static async Task<(HttpStatusCode Status, string Sentence)> SendAsync(TestServer server, string path, string body, string type = "application/json", HttpMethod? method = null)
    {
        using var request = new HttpRequestMessage(method ?? HttpMethod.Post, path) { Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body)) };
        request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
        using var answer = await server.Client.SendAsync(request);
        var text = await answer.Content.ReadAsStringAsync();
        var sentence = text.StartsWith('{') && JsonElement.Parse(text).TryGetProperty("detail", out var detail) ? detail.GetString()! : text;
        return (answer.StatusCode, sentence);
    }

    private static void IsRefused((HttpStatusCode Status, string Sentence) answer, string? part = null)
    {
        Assert.InRange((int)answer.Status, 400, 499);
        Assert.EndsWith(".", answer.Sentence, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', answer.Sentence);
        Assert.DoesNotContain("   at ", answer.Sentence, StringComparison.Ordinal);
        Assert.Contains(part ?? "", answer.Sentence, StringComparison.Ordinal);
    }

    private static string Nodes(int count, string kind = "group", string more = "") => $$"""{"name":"x","rate":{"numerator":24},"range":{"first":0,"last":9},"size":{"width":64,"height":36},"nodes":[{{string.Join(',', Enumerable.Range(0, count).Select(i => $$"""{"kind":"{{kind}}","id":"n{{i}}","name":"n{{i}}"{{more}}}"""))}}]}""";

    private static string Journal(string edit) => $$"""{"revision":0,"entries":[{"kind":"edit","edit":{{edit}}}]}""";

    private static string Many(int count, Func<int, string> make) => string.Join(',', Enumerable.Range(0, count).Select(make));

    /// <summary>A long curve, and forty thousand changes to it one after the other.</summary>
    private static string Slow()
    {
        const string address = "sun/transform.translate.y";
        var curve = "{\"kind\":\"setCurve\",\"address\":\"" + address + "\",\"curve\":{\"keys\":[" + Many(120_000, i => "{\"frame\":" + i + ",\"value\":1}") + "]}}";
        return "{\"kind\":\"batch\",\"label\":\"x\",\"edits\":[" + curve + "," + Many(40_000, i => "{\"kind\":\"setKeys\",\"frame\":" + i + ",\"values\":[{\"address\":\"" + address + "\",\"value\":" + i + "}]}") + "]}";
    }

    private static string Random(int points, int seed)
    {
        var dice = new Random(seed);
        return "M" + string.Join("L", Enumerable.Range(0, points).Select(_ => FormattableString.Invariant($"{dice.NextDouble() * 4:0.###} {dice.NextDouble() * 4:0.###}"))) + "Z";
    }

    private static string Join(string outlines, string how = "\"Union\"") => $$"""{"outlines":[{{outlines}}],"how":{{how}}}""";

    private static string Outline(string path) => $$"""{"path":"{{path}}","map":[1,0,0,1,0,0]}""";

    public static TheoryData<string, string, string> Small() => new()
    {
        // What is missing within a list, and members that are none.
        { "/api/outlines/join", Join("null,null"), "missing" },
        { "/api/outlines/join", Join("""{"path":null,"map":null},{}"""), "" },
        { "/api/outlines/join", Join(Outline("M0 0H1V1z") + "," + Outline("M0 0H1V1z"), "7"), "" },
        { "/api/outlines/join", Join(Outline("M0 0H1V1z") + "," + Outline("M0 0H1V1z"), "\"7\""), "" },
        { "/api/outlines/join", Join(Outline("M0 0H1V1z") + "," + Outline("M0 0H1V1z"), "null"), "" },
        { "/api/outlines/join", "null", "" },
        { "/api/outlines/text", "null", "" },
        { "/api/outlines/text", """{"text":null}""", "" },
        { "/api/shots/ID/bake", """{"ids":[null],"what":"Rotation"}""", "" },
        { "/api/shots/ID/bake", """{"ids":["sun"],"what":9}""", "" },
        { "/api/shots/ID/bake", "null", "" },
        { "/api/shots/ID/journal", """{"revision":0,"entries":[null]}""", "" },
        { "/api/shots/ID/journal", """{"revision":0,"entries":null}""", "" },
        { "/api/renders/none/film", "null", "" },
        { "/api/saved", "null", "" },
        // A few bytes that would keep a processor busy for a minute.
        { "/api/outlines/join", Join(Outline(Random(400, 1)) + "," + Outline(Random(400, 2))), "cross each other more than" },
        { "/api/outlines/join", Join(Outline(Random(9000, 1)) + "," + Outline("M0 0H1V1z")), "points" },
        { "/api/outlines/text", JsonSerializer.Serialize(new { text = "A" + new string('\u0301', 40) }), "marks" },
    };

    [Theory]
    [MemberData(nameof(Small))]
    public async Task What_is_small_and_makes_no_sense_or_much_work_is_refused_at_once(string path, string body, string part)
    {
        await using var server = await TestServer.StartAsync();
        var watch = Stopwatch.StartNew();
        IsRefused(await SendAsync(server, path.Replace("ID", await server.NewShotAsync(), StringComparison.Ordinal), body), part);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(20), $"{watch.Elapsed}");
    }

    [Fact]
    public async Task Another_site_is_refused_however_the_address_is_written_and_every_refusal_has_a_sentence()
    {
        await using var server = await TestServer.StartAsync();
        async Task<(HttpStatusCode, string)> AskAsync(string method, string path, bool isStrange)
        {
            using var request = new HttpRequestMessage(new HttpMethod(method), path);
            if (isStrange)
            {
                request.Headers.Add("Sec-Fetch-Site", "cross-site");
                request.Headers.Add("Sec-Fetch-Mode", "navigate");
            }
            using var answer = await server.Client.SendAsync(request);
            var text = await answer.Content.ReadAsStringAsync();
            return (answer.StatusCode, text.StartsWith('{') && JsonElement.Parse(text).TryGetProperty("detail", out var detail) ? detail.GetString()! : text);
        }
        foreach (var path in new[] { "/api/shots", "/API/shots", "/Api/Shots" })
        {
            Assert.Equal(HttpStatusCode.Forbidden, (await AskAsync("GET", path, isStrange: true)).Item1);
        }
        var nothing = await AskAsync("GET", "/api/nonsense", isStrange: false);
        Assert.Equal(HttpStatusCode.NotFound, nothing.Item1);
        Assert.EndsWith(".", nothing.Item2, StringComparison.Ordinal);
        var wrong = await AskAsync("PATCH", "/api/shots", isStrange: false);
        Assert.Equal(HttpStatusCode.MethodNotAllowed, wrong.Item1);
        Assert.EndsWith(".", wrong.Item2, StringComparison.Ordinal);
    }

    public static TheoryData<string> Large() => ["million", "vertices", "deep", "edit", "slow", "materials", "chain", "frames", "keys"];

    [Theory]
    [MemberData(nameof(Large))]
    public async Task What_is_far_too_large_is_refused_and_nothing_is_kept(string what)
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var before = ShotJson.Write(await server.ShotAsync(id));
        var (path, body, part) = what switch
        {
            "million" => ("/api/shots/import", Nodes(1_000_000), "objects"),
            "vertices" => ("/api/shots/import", Nodes(1, "mesh", ""","shape":{"kind":"box","divisions":1024}"""), "vertices"),
            "deep" => ($"/api/shots/{id}/journal", new string('[', 10_000) + new string(']', 10_000), ""),
            "edit" => ($"/api/shots/{id}/journal", Journal($$"""{"kind":"rename","id":"sun","name":"{{new string('x', 10 << 20)}}"}"""), "smaller"),
            "slow" => ($"/api/shots/{id}/journal", Journal(Slow()), "longer than 5 seconds"),
            "materials" => ("/api/shots/import", Nodes(1)[..^1] + ",\"materials\":[" + Many(100_000, i => "{\"id\":\"m" + i + "\",\"name\":\"m\"}") + "]}", "materials"),
            "chain" => ("/api/shots/import", Nodes(2)[..^2] + "," + Many(19_000, i => "{\"kind\":\"group\",\"id\":\"c" + i + "\",\"name\":\"n\",\"parent\":\"c" + ((i + 1) % 19_000) + "\"}") + "]}", "circle"),
            "frames" => ("/api/renders", "{\"shotId\":\"" + id + "\",\"frames\":\"0-199999\",\"width\":16,\"height\":9,\"quality\":\"draft\"}", "at most"),
            _ => ("/api/shots/import", Nodes(1, "group", ",\"channels\":{\"transform.translate.y\":{\"value\":0,\"curve\":{\"keys\":[{\"frame\":0,\"value\":1e999}]}}}"), ""),
        };
        IsRefused(await SendAsync(server, path, body), part);
        Assert.Equal(before, ShotJson.Write(await server.ShotAsync(id)));
        Assert.Equal(1, (await server.GetAsync("/api/shots")).GetArrayLength());
        Assert.Equal(0, (await server.GetAsync("/api/renders")).GetArrayLength());
    }

    [Fact]
    public async Task Scales_that_no_picture_can_hold_make_a_small_picture_all_the_same()
    {
        await using var server = await TestServer.StartAsync();
        foreach (var scale in new[] { 1e-40, 1e12, 0, -1e12, 1e-300 })
        {
            var id = await server.NewShotAsync();
            static System.Collections.Immutable.ImmutableSortedDictionary<string, Channel> Scaled(double by) =>
                System.Collections.Immutable.ImmutableSortedDictionary.CreateRange("xyz".Select(a => KeyValuePair.Create($"transform.scale.{a}", new Channel(by))));
            var nodes = Enumerable.Range(0, 4).Select(i => (Node)new MeshNode { Id = $"n{i}", Name = "N", Parent = i == 0 ? null : $"n{i - 1}", Shape = new SphereShape(1, 8, 6), Channels = Scaled(scale) });
            Assert.Equal(HttpStatusCode.OK, (await server.EditAsync(id, 0, new AddNodes([.. nodes]))).Status);
            Assert.Equal([0x89, 0x50], (await server.Client.GetByteArrayAsync(new Uri($"/api/shots/{id}/thumbnail", UriKind.Relative)))[..2]);
            Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Get, $"/api/shots/{id}/opening")).Status);
        }
    }

    [Theory]
    [InlineData("application/json; charset=nonsense")]
    [InlineData("application/json; charset=utf-16")]
    [InlineData("text/plain")]
    [InlineData("no type at all")]
    public async Task A_body_that_is_said_to_be_something_else_is_refused(string type)
    {
        await using var server = await TestServer.StartAsync();
        var (status, _) = await SendAsync(server, "/api/shots", """{"name":"x"}""", type);
        Assert.InRange((int)status, 400, 499);
    }

    [Theory]
    [InlineData("灯台の波止場に立つ古いクレーンと小さな灯りの列が夕暮れの海に映る様子を描いた長い長い名前のファイル_####.png")]
    [InlineData("shot_####.png\u0000.png")]
    [InlineData("..####.png")]
    public async Task A_file_name_that_no_disk_takes_is_refused_before_anything_is_queued(string name)
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        IsRefused(await SendAsync(server, "/api/renders", JsonSerializer.Serialize(new { shotId = id, frames = "0", width = 16, height = 9, quality = "draft", fileName = name })));
        Assert.Equal(0, (await server.GetAsync("/api/renders")).GetArrayLength());
    }

    /// <summary>The same in every run, and as many that nobody has tried.</summary>
    public static TheoryData<int, int> Throws() => new() { { 20261125, 600 }, { Environment.TickCount & int.MaxValue, 400 } };

    /// <summary>Files of all kinds that are taken, whole.</summary>
    private static (string Path, string Name, byte[] Bytes)[] Foreign()
    {
        byte[] Text(string text) => Encoding.UTF8.GetBytes(text);
        byte[] Read(string path) => File.ReadAllBytes(Path.Combine(Repository.Root, path));
        return
        [
            ("/api/import", "sail.obj", Text("o sail\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 1 1 0\nvn 0 0 1\nvt 0 0\nf 1/1/1 2/1/1 4/1/1 3/1/1\n")),
            ("/api/import", "sail.stl", Text("solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid s\n")),
            ("/api/import", "sail.ply", Text("ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n")),
            ("/api/import", "sign.svg", Text("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 9 9'><defs><linearGradient id='g'><stop offset='0' stop-color='red'/></linearGradient></defs><g transform='rotate(9)'><path fill='url(#g)' d='M0 0h9v9a3 3 0 0 1-4-4z'/></g></svg>")),
            ("/api/import", "gull.glb", Read("demo/gull.glb")),
            ("/api/import", "quay.shot.json", Read("demo/turntable.shot.json")),
            ("/api/pictures?name=a.png", "", Read("docs/screenshots/search-ink.png")),
        ];
    }

    /// <summary>Sends a file with bytes turned, cut out, doubled or cut off; it may still be one that can be read.</summary>
    private static async Task SpoiltAsync(TestServer server, (string Path, string Name, byte[] Bytes) file, Random dice, string which)
    {
        var bytes = file.Bytes.ToList();
        // Heads are where lengths and counts stand.
        int At() => dice.Next(dice.Next(2) == 0 ? Math.Min(200, bytes.Count) : bytes.Count);
        for (var times = dice.Next(1, 6); times > 0 && bytes.Count > 8; times--)
        {
            var at = At();
            switch (dice.Next(5))
            {
                case 0:
                    bytes.RemoveRange(at, Math.Min(bytes.Count - at, dice.Next(1, 40)));
                    break;
                case 1:
                    bytes.InsertRange(at, bytes.Skip(At()).Take(dice.Next(1, 40)).ToList());
                    break;
                case 2:
                    bytes.RemoveRange(at, bytes.Count - at);
                    break;
                case 3:
                    bytes.InsertRange(at, Encoding.UTF8.GetBytes(new[] { "99999999999", "-1", "1e999", "nan", "\0", "../../x", "<", "{" }[dice.Next(8)]));
                    break;
                default:
                    bytes[at] = (byte)dice.Next(256);
                    break;
            }
        }
        using HttpContent content = file.Name.Length == 0 ? new ByteArrayContent([.. bytes]) : new MultipartFormDataContent { { new ByteArrayContent([.. bytes]), "files", file.Name } };
        using var answer = await server.Client.PostAsync(new Uri(file.Path, UriKind.Relative), content);
        var text = await answer.Content.ReadAsStringAsync();
        if (answer.StatusCode != HttpStatusCode.OK)
        {
            Assert.True((int)answer.StatusCode is >= 400 and < 500, $"{which}: {(int)answer.StatusCode} {file.Path} {file.Name}: {text}");
            var sentence = JsonElement.Parse(text).GetProperty("detail").GetString()!;
            Assert.DoesNotContain("   at ", sentence, StringComparison.Ordinal);
            Assert.False(sentence.Contains("has ended the program", StringComparison.Ordinal), $"{which}: {file.Name}: {sentence}");
        }
    }

    /// <summary>Requests made of good ones by dice: pieces cut, doubled, swapped for other kinds of things, huge numbers, odd letters.</summary>
    [Theory]
    [MemberData(nameof(Throws))]
    public async Task A_thousand_requests_made_by_dice_change_nothing_that_was_not_meant_and_leave_the_server_well(int seed, int count)
    {
        await using var server = await TestServer.StartAsync();
        var dice = new Random(seed);
        var id = await server.NewShotAsync("Quay");
        var good = new (string Path, string Body)[]
        {
            ("/api/shots", """{"name":"Quay"}"""),
            ("/api/shots/import", ShotJson.Write(await server.ShotAsync(id))),
            ($"/api/shots/{id}/journal", Journal("""{"kind":"setValues","values":[{"address":"sun/transform.translate.y","value":3}]}""")),
            ($"/api/shots/{id}/journal", Journal("""{"kind":"setKeys","frame":3,"values":[{"address":"sun/transform.rotate.x","value":3}]}""")),
            ($"/api/shots/{id}/journal", Journal("""{"kind":"reparent","ids":["sun"],"frame":0,"parent":"camera"}""")),
            ($"/api/shots/{id}/journal", Journal("""{"kind":"addNodes","nodes":[{"kind":"mesh","id":"b","name":"B","shape":{"kind":"box","width":2}}]}""")),
            ($"/api/shots/{id}/journal", """{"revision":0,"entries":[{"kind":"restore","revision":0},{"kind":"leaveOut","revision":1}]}"""),
            ("/api/renders", $$"""{"shotId":"{{id}}","frames":"0-1","width":16,"height":9,"quality":"draft","fileName":"a_##.png"}"""),
            ($"/api/shots/{id}/name", """{"name":"Mole"}"""),
            ($"/api/shots/{id}/bake", """{"ids":["sun"],"what":"Rotation","frame":0}"""),
            ("/api/outlines/text", """{"text":"Quay","font":"Sans"}"""),
            ("/api/outlines/join", Join(Outline("M0 0H1V1z") + "," + Outline("M0 0H2V1z"))),
            ("/api/saved", """{"kind":"pose","name":"Wave","parts":[{"name":"Sun","path":"transform.translate.y","value":2}]}"""),
        };
        var foreign = Foreign();
        string[] pieces = ["null", "{}", "[]", "\"\"", "1e999", "-1e308", "NaN", "1e-320", "99999999999999999999", "\"\\u0000\"", "\"../../etc/passwd\"", "\"<script>\"", "\"\\ud800\"", "true", "[[[[[[[[[[]]]]]]]]]]", "\"sun/\"", "\"/x\"", "-1", "2147483648", "\"" + new string('ж', 300) + "\""];
        string[] places = ["/api/shots/%00", "/api/shots/..%2f..%2fx/file", "/api/renders/" + new string('a', 4000), "/api/shots/" + id + "/thumbnail?revision=" + new string('9', 400), "/api/shots/" + id + "/journal?after=9999999999999", "/api/renders/none/frames/1", "/%2e%2e/%2e%2e/etc/passwd", "/api/renders/x/frames/99999999999"];
        var statuses = new Dictionary<int, int>();
        for (var i = 0; i < count; i++)
        {
            if (dice.Next(4) == 0)
            {
                await SpoiltAsync(server, foreign[dice.Next(foreign.Length)], dice, $"request {i} of seed {seed}");
                continue;
            }
            var (path, body) = good[dice.Next(good.Length)];
            var method = HttpMethod.Post;
            switch (dice.Next(6))
            {
                case 0:
                    body = body[..dice.Next(body.Length)];
                    break;
                case 1:
                    var cut = dice.Next(body.Length);
                    body = body[..cut] + pieces[dice.Next(pieces.Length)] + body[Math.Min(body.Length, cut + dice.Next(1, 9))..];
                    break;
                case 2:
                    var values = System.Text.RegularExpressions.Regex.Matches(body, """(?<=:)("[^"]*"|-?[0-9.]+|true|false)""");
                    var value = values[dice.Next(values.Count)];
                    body = body[..value.Index] + pieces[dice.Next(pieces.Length)] + body[(value.Index + value.Length)..];
                    break;
                case 3:
                    path = places[dice.Next(places.Length)];
                    method = HttpMethod.Get;
                    break;
                case 4:
                    method = new[] { HttpMethod.Put, HttpMethod.Delete, HttpMethod.Patch, HttpMethod.Get, HttpMethod.Options }[dice.Next(5)];
                    path = path.Contains(id, StringComparison.Ordinal) && method == HttpMethod.Delete ? "/api/shots/none" : path;
                    break;
                default:
                    body = string.Concat(body.Select(c => dice.Next(30) == 0 ? (char)dice.Next(1, 127) : c));
                    break;
            }
            var (status, sentence) = await SendAsync(server, path, body, method: method);
            statuses[(int)status] = statuses.GetValueOrDefault((int)status) + 1;
            Assert.True((int)status is < 500 or 507, $"request {i} of seed {seed}: {(int)status} {method} {path} {body[..Math.Min(300, body.Length)]}: {sentence}");
            Assert.DoesNotContain("   at ", sentence, StringComparison.Ordinal);
        }
        Assert.Equal("ok", await server.Client.GetStringAsync(new Uri("/healthz", UriKind.Relative)));
        // Whatever was taken is a shot that can be read, and the journal leads to it.
        foreach (var shot in (await server.GetAsync("/api/shots")).EnumerateArray())
        {
            foreach (var what in new[] { "", "/opening", "/file" })
            {
                using var answer = await server.Client.GetAsync(new Uri($"/api/shots/{shot.GetProperty("id").GetString()}{what}", UriKind.Relative));
                Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
            }
        }
        Assert.True(statuses.Keys.Count(s => s >= 400) >= 3, string.Join(", ", statuses));
        Assert.Empty(Directory.GetDirectories(Path.Combine(server.Folder, "uploads")));
        Assert.Empty(Directory.GetFiles(server.Folder).Select(Path.GetFileName).Except(["bradymotus.db", "bradymotus.db-wal", "bradymotus.db-shm", "lock"]));
    }
}
