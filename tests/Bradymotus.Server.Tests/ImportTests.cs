using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.Json;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats.Gltf;
using Bradymotus.Wire;

namespace Bradymotus.Server.Tests;

/// <summary>Files of other programs on their way into the library, and shots with their meshes on their way out and in again. The gull of the demo is the file.</summary>
public class ImportTests
{
    private static readonly byte[] Gull = File.ReadAllBytes(Path.Combine(Repository.Root, "demo/gull.glb"));

    private static async Task<(HttpStatusCode Status, JsonElement Body)> SendAsync(TestServer server, string? into, params (string Name, byte[] Bytes)[] files)
    {
        using var form = new MultipartFormDataContent();
        foreach (var (name, bytes) in files)
        {
            form.Add(new ByteArrayContent(bytes), "files", name);
        }
        using var answer = await server.Client.PostAsync(new Uri("/api/import" + (into is null ? "" : $"?into={into}"), UriKind.Relative), form);
        return (answer.StatusCode, JsonElement.Parse(await answer.Content.ReadAsStringAsync()));
    }

    private static async Task<byte[]> FileAsync(TestServer server, string id) => await server.Client.GetByteArrayAsync(new Uri($"/api/shots/{id}/file", UriKind.Relative));

    private static byte[] Zip(params (string Name, byte[] Bytes)[] entries)
    {
        using var buffer = new MemoryStream();
        using (var zip = new ZipArchive(buffer, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, bytes) in entries)
            {
                using var stream = zip.CreateEntry(name).Open();
                stream.Write(bytes);
            }
        }
        return buffer.ToArray();
    }

    [Fact]
    public async Task Pictures_come_in_for_materials_that_the_shelf_has_to_start_from()
    {
        await using var server = await TestServer.StartAsync();
        var shelf = (await server.GetAsync("/api/materials")).EnumerateArray().ToList();
        Assert.True(shelf.Count > 10);
        var oak = shelf.Single(m => m.GetProperty("id").GetString() == "oak");
        var material = ShotJson.Read<Material>(oak.GetProperty("material").GetRawText(), "material");
        Assert.IsType<WoodPattern>(material.Maps[0].Source);
        var picture = await server.Client.GetByteArrayAsync(new Uri("/api/materials/oak/picture", UriKind.Relative));
        Assert.Equal(".png", Formats.Asset.EndingOf(picture));
        Assert.Equal(HttpStatusCode.NotFound, (await server.Client.GetAsync(new Uri("/api/materials/gold/picture", UriKind.Relative))).StatusCode);

        async Task<(HttpStatusCode Status, JsonElement Body)> AddAsync(string name, byte[] bytes)
        {
            using var answer = await server.Client.PostAsync(new Uri($"/api/pictures?name={name}", UriKind.Relative), new ByteArrayContent(bytes));
            return (answer.StatusCode, JsonElement.Parse(await answer.Content.ReadAsStringAsync()));
        }
        // What the shelf has painted is as good a picture as any.
        var (status, added) = await AddAsync("oak.png", picture);
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal((80, "oak.png"), (added.GetProperty("width").GetInt32(), added.GetProperty("name").GetString()));
        var asset = added.GetProperty("asset").GetString()!;
        using var back = await server.Client.GetAsync(new Uri($"/api/assets/{asset}", UriKind.Relative));
        Assert.Equal("image/png", back.Content.Headers.ContentType!.MediaType);
        Assert.Equal(picture, await back.Content.ReadAsByteArrayAsync());
        foreach (var (name, bytes, part) in new[] { ("a.png", new byte[] { 1, 2, 3 }, "a.png"), ("b.png", picture[..40], "b.png"), ("c.png", [], "No picture") })
        {
            var (refused, why) = await AddAsync(name, bytes);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused);
            Assert.Contains(part, why.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }

        // A shot can refer to what is here, and to nothing else.
        Shot Painted(string of) => Shot.Empty("Painted") with { Materials = [new("m", "M") { Maps = [new(MapSlot.Color, new PictureSource(of, "oak.png", 80, 80))] }] };
        async Task<HttpResponseMessage> ImportAsync(Shot shot) =>
            await server.Client.PostAsync(new Uri("/api/shots/import", UriKind.Relative), new StringContent(ShotJson.Write(shot), Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await ImportAsync(Painted(new string('a', 64)))).StatusCode);
        var taken = JsonElement.Parse(await (await ImportAsync(Painted(asset))).Content.ReadAsStringAsync()).GetProperty("id").GetString()!;
        using var zip = new ZipArchive(new MemoryStream(await FileAsync(server, taken)));
        Assert.Contains(zip.Entries, e => e.FullName.EndsWith($"{asset}.png", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_film_comes_in_for_reference_and_nothing_else_is_opened_for_it()
    {
        await using var server = await TestServer.StartAsync();
        async Task<(HttpStatusCode Status, JsonElement Body)> AddAsync(string name, byte[] bytes)
        {
            using var answer = await server.Client.PostAsync(new Uri($"/api/films?name={name}", UriKind.Relative), new ByteArrayContent(bytes));
            return (answer.StatusCode, JsonElement.Parse(await answer.Content.ReadAsStringAsync()));
        }
        // Grey, as the ffmpeg of the system makes it.
        var file = Path.Combine(Path.GetTempPath(), $"bradymotus-{Guid.NewGuid():N}.mkv");
        async Task<byte[]> GreyAsync(string what)
        {
            using var made = System.Diagnostics.Process.Start("ffmpeg", ["-y", "-v", "error", "-f", "lavfi", "-i", $"color=gray:{what}", file]);
            await made.WaitForExitAsync();
            return await File.ReadAllBytesAsync(file);
        }
        try
        {
            var (status, film) = await AddAsync("walk.mkv", await GreyAsync("size=62x36:rate=16:duration=0.5"));
            Assert.Equal(HttpStatusCode.OK, status);
            Assert.Equal((62, 36, 16.0, 0.5), (film.GetProperty("width").GetInt32(), film.GetProperty("height").GetInt32(), film.GetProperty("framesPerSecond").GetDouble(), Math.Round(film.GetProperty("seconds").GetDouble(), 2)));
            // Browsers ask for a part of it, to go to a frame.
            using var request = new HttpRequestMessage(HttpMethod.Get, new Uri($"/api/assets/{film.GetProperty("asset").GetString()}", UriKind.Relative)) { Headers = { Range = new(4, 7) } };
            using var part = await server.Client.SendAsync(request);
            Assert.Equal((HttpStatusCode.PartialContent, "video/mp4", "ftyp"), (part.StatusCode, part.Content.Headers.ContentType!.MediaType, await part.Content.ReadAsStringAsync()));
            // More pictures a second than anybody sees become fewer, of the same duration.
            (status, film) = await AddAsync("fast.mkv", await GreyAsync("size=16x16:rate=480:duration=0.5"));
            Assert.Equal((HttpStatusCode.OK, 120.0), (status, film.GetProperty("framesPerSecond").GetDouble()));
            // Of whole pictures, with one more at either end.
            Assert.InRange(film.GetProperty("seconds").GetDouble(), 0.5 - 2.0 / 120, 0.5 + 2.5 / 120);
            var (tooWide, said) = await AddAsync("wide.mkv", await GreyAsync("size=8194x16:rate=16:duration=0.1"));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, tooWide);
            Assert.Contains("wide.mkv has pictures of 8194 × 16", said.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
        finally
        {
            File.Delete(file);
        }
        // What is no film, and what names other files, is refused.
        foreach (var (name, text) in new[] { ("a.mp4", "nothing"), ("b.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"), ("c.txt", "ffconcat version 1.0\nfile /etc/passwd\n") })
        {
            var (refused, why) = await AddAsync(name, Encoding.ASCII.GetBytes(text));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused);
            Assert.Contains(name, why.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task Words_become_outlines_that_are_put_together_and_baked_into_meshes()
    {
        await using var server = await TestServer.StartAsync();
        async Task<JsonElement> PostAsync(string path, object body, HttpStatusCode expected = HttpStatusCode.OK)
        {
            using var answer = await server.Client.PostAsync(new Uri(path, UriKind.Relative), new StringContent(JsonSerializer.Serialize(body), Encoding.UTF8, "application/json"));
            Assert.Equal(expected, answer.StatusCode);
            return JsonElement.Parse(await answer.Content.ReadAsStringAsync());
        }
        Assert.Equal(["Sans", "Serif", "Round", "Hand"], (await server.GetAsync("/api/outlines/fonts")).EnumerateArray().Select(f => f.GetString()));
        var path = (await PostAsync("/api/outlines/text", new { text = "Quay", font = "Round" })).GetProperty("path").GetString()!;
        Assert.True(new OutlineShape(path).VertexCount > 100);
        Assert.Contains("no “漢”", (await PostAsync("/api/outlines/text", new { text = "漢" }, HttpStatusCode.UnprocessableEntity)).GetProperty("detail").GetString(), StringComparison.Ordinal);
        var joined = await PostAsync("/api/outlines/join", new { how = "Cut", outlines = new[] { new { path = "M0 0H2V2H0z", map = new[] { 1.0, 0, 0, 1, 0, 0 } }, new { path = "M0 0H1V1H0z", map = new[] { 1.0, 0, 0, 1, 0.5, 0.5 } } } });
        Assert.True(new OutlineShape(joined.GetProperty("path").GetString()!).Build().TriangleCount > 20);

        var shot = Shot.Empty("Bake") with { Nodes = [new MeshNode { Id = "a", Name = "A", Shape = new BoxShape() }] };
        shot = new SetValues([new(new("a", "transform.scale.y"), 3)]).Apply(shot);
        var id = (await PostAsync("/api/shots/import", JsonSerializer.Deserialize<JsonElement>(ShotJson.Write(shot)))).GetProperty("id").GetString()!;
        var edit = ShotJson.Read<Edit>((await PostAsync($"/api/shots/{id}/bake", new { ids = new[] { "a" }, what = "Scale" })).GetProperty("edit").GetRawText(), "edit");
        var baked = edit.Apply(shot);
        Assert.Equal(1, baked.Channel(new("a", "transform.scale.y")).Value);
        using var asset = await server.Client.GetAsync(new Uri($"/api/assets/{((AssetShape)((MeshNode)baked.Node("a")).Shape).Asset}", UriKind.Relative));
        Assert.Equal(1.5, Formats.Gltf.MeshFile.Read(await asset.Content.ReadAsByteArrayAsync()).Bounds().Max.Y);
        Assert.Contains("no object", (await PostAsync($"/api/shots/{id}/bake", new { ids = new[] { "gone" }, what = "Both" }, HttpStatusCode.UnprocessableEntity)).GetProperty("detail").GetString(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_model_becomes_a_shot_with_its_picture_and_travels_as_one_file_to_another_library()
    {
        await using var server = await TestServer.StartAsync();
        var (status, body) = await SendAsync(server, null, ("gull.glb", Gull));
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Contains(body.GetProperty("imported").EnumerateArray(), c => c.GetString() == "10 joints");
        var id = body.GetProperty("shot").GetProperty("id").GetString()!;
        using var picture = await server.Client.GetAsync(new Uri($"/api/shots/{id}/thumbnail", UriKind.Relative));
        Assert.Equal("image/png", picture.Content.Headers.ContentType?.MediaType);
        var opening = await server.GetAsync($"/api/shots/{id}/opening");
        Assert.True(opening.GetProperty("meshes")[0].GetProperty("positions").GetBytesFromBase64().Length > 30_000);

        var file = await FileAsync(server, id);
        await using var other = await TestServer.StartAsync();
        (status, body) = await SendAsync(other, null, ("Gull.shot.zip", file));
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(file, await FileAsync(other, body.GetProperty("shot").GetProperty("id").GetString()!));
    }

    [Fact]
    public async Task A_model_is_added_to_an_open_shot_by_an_edit_and_its_mesh_can_be_fetched()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        for (var n = 0; n < 2; n++)
        {
            var (_, body) = await SendAsync(server, id, ("gull.glb", Gull));
            var edit = ShotJson.Read<Edit>(body.GetProperty("edit").GetRawText(), "edit");
            Assert.Equal(HttpStatusCode.OK, (await server.EditAsync(id, n, edit)).Status);
        }
        // Twice the same file: two gulls, one mesh.
        var shot = Tops(await server.GetAsync($"/api/shots/{id}/opening"));
        Assert.Equal(["Gull", "Gull 2"], shot.Where(s => s.StartsWith("Gull", StringComparison.Ordinal)));
        var name = Assert.Single(Directory.GetFiles(Path.Combine(server.Folder, "assets"), "*.glb").Select(Path.GetFileNameWithoutExtension))!;
        var stored = await server.Client.GetByteArrayAsync(new Uri($"/api/assets/{name}", UriKind.Relative));
        var mesh = Packed.ReadMesh(await server.Client.GetByteArrayAsync(new Uri($"/api/assets/{name}/mesh", UriKind.Relative)), "mesh");
        var own = MeshFile.Read(stored);
        Assert.Equal(own.Positions, mesh.Positions);
        Assert.Equal(own.Indices, mesh.Indices);
        Assert.Equal(own.Parts, mesh.Parts);
        Assert.Equal(own.Weights!.Joints, mesh.Weights!.Joints);
        Assert.Equal(own.Targets.Select(t => t.Positions.Length), mesh.Targets.Select(t => t.Positions.Length));
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, $"/api/assets/{new string('0', 64)}/mesh")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await server.SendAsync(HttpMethod.Get, "/api/assets/..%2fbradymotus.db")).Status);
        static List<string> Tops(JsonElement opening) => [.. opening.GetProperty("scene").GetProperty("nodes").EnumerateArray().Where(n => n.GetProperty("parent").ValueKind == JsonValueKind.Null).Select(n => n.GetProperty("name").GetString()!)];
    }

    [Fact]
    public async Task A_shot_or_some_of_it_goes_out_as_a_model_that_comes_in_again()
    {
        await using var server = await TestServer.StartAsync();
        var (_, made) = await SendAsync(server, null, ("gull.glb", Gull));
        var id = made.GetProperty("shot").GetProperty("id").GetString()!;
        var nodes = (await server.GetAsync($"/api/shots/{id}/opening")).GetProperty("scene").GetProperty("nodes").EnumerateArray().ToDictionary(n => n.GetProperty("name").GetString()!, n => n.GetProperty("id").GetString()!);
        using var whole = await server.Client.GetAsync(new Uri($"/api/shots/{id}/model", UriKind.Relative));
        Assert.Equal("Gull.glb", whole.Content.Headers.ContentDisposition!.FileName!.Trim('"'));
        var report = JsonElement.Parse(Assert.Single(whole.Headers.GetValues("Export-Report")));
        Assert.Contains("13 nodes", report.GetProperty("kept")[0].GetString(), StringComparison.Ordinal);
        var (_, again) = await SendAsync(server, null, ("Gull.glb", await whole.Content.ReadAsByteArrayAsync()));
        Assert.Equal(made.GetProperty("imported").EnumerateArray().Select(c => c.GetString()).SkipLast(1), again.GetProperty("imported").EnumerateArray().Select(c => c.GetString()).SkipLast(1));
        // A mesh takes its joints along.
        var some = await server.Client.GetByteArrayAsync(new Uri($"/api/shots/{id}/model?nodes={nodes["Plumage"]}&step=2", UriKind.Relative));
        var (_, part) = await SendAsync(server, null, ("Plumage.glb", some));
        Assert.Contains("10 joints", part.GetProperty("imported").EnumerateArray().Select(c => c.GetString()));
        foreach (var wrong in new[] { "step=0", "step=-1", "step=1e-9", "step=NaN", "nodes=nobody" })
        {
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await server.SendAsync(HttpMethod.Get, $"/api/shots/{id}/model?{wrong}")).Status);
        }
    }

    [Fact]
    public async Task A_mesh_that_is_not_here_cannot_be_referred_to()
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var node = new MeshNode { Id = "m", Name = "Mast", Shape = new AssetShape(new string('a', 64), 3, 1) };
        var (status, body) = await server.EditAsync(id, 0, new AddNodes([node]));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("Mast", body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Empty((await server.GetAsync($"/api/shots/{id}/journal")).EnumerateArray());
        var shot = ShotJson.Write(Shot.Empty("Alone") with { Nodes = [node] });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await server.SendAsync(HttpMethod.Post, "/api/shots/import", shot)).Status);
    }

    [Fact]
    public async Task Zips_that_lie_are_refused_in_a_sentence_and_leave_nothing_behind()
    {
        await using var server = await TestServer.StartAsync();
        var (_, made) = await SendAsync(server, null, ("gull.glb", Gull));
        var file = await FileAsync(server, made.GetProperty("shot").GetProperty("id").GetString()!);
        using var zip = new ZipArchive(new MemoryStream(file));
        byte[] Entry(string ending)
        {
            using var stream = zip.Entries.Single(e => e.Name.EndsWith(ending, StringComparison.Ordinal)).Open();
            using var buffer = new MemoryStream();
            stream.CopyTo(buffer);
            return buffer.ToArray();
        }
        var (shot, mesh) = (Entry(".json"), Entry(".glb"));
        var name = zip.Entries.Single(e => e.Name.EndsWith(".glb", StringComparison.Ordinal)).Name;
        // As its own size a gigabyte of zeros, packed to a megabyte.
        var bomb = Zip(("Gull.shot.json", new byte[1 << 30]));
        Assert.True(bomb.Length < 2 << 20);
        foreach (var (bytes, expected) in new (byte[], string)[]
        {
            (file[..(file.Length / 2)], "cut off"),
            (Zip(("Gull.shot.json", shot)), "lacks 1"),
            (Zip(("../Gull.shot.json", shot)), "holds 0"),
            (Zip(("Gull.shot.json", shot), ("Mole.shot.json", shot)), "holds 2"),
            (Zip(("Gull.shot.json", shot), ($"Gull.assets/{name}", mesh[..^4])), "damaged"),
            (Zip(("Gull.shot.json", Encoding.UTF8.GetBytes("{}"))), "shot"),
            (bomb, "64 MB"),
        })
        {
            var (status, body) = await SendAsync(server, null, ("Gull.shot.zip", bytes));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains(expected, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
        Assert.Equal(1, (await server.GetAsync("/api/shots")).GetArrayLength());
        // Folders that lead elsewhere are not followed: what the shot asks for is taken by its name alone.
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(server, null, ("Gull.shot.zip", Zip(("Gull.shot.json", shot), ($"../../../tmp/{name}", mesh), ("../../evil.sh", shot))))).Status);
        Assert.False(File.Exists(Path.Combine(server.Folder, "..", "..", "evil.sh")));
    }

    [Theory]
    [InlineData("model.fbz", "cannot be imported")]
    [InlineData("model.glb", "cannot be read as glTF 2.0")]
    [InlineData("model.shot.json", "shot")]
    public async Task What_cannot_be_read_is_refused_with_its_name(string name, string expected)
    {
        await using var server = await TestServer.StartAsync();
        var (status, body) = await SendAsync(server, null, (name, Encoding.UTF8.GetBytes("nothing of the kind")));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(expected, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await server.SendAsync(HttpMethod.Post, "/api/import", "{}")).Status);
        Assert.Equal(0, (await server.GetAsync("/api/shots")).GetArrayLength());
    }
}
