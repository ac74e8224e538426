using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Server.Tests;

/// <summary>The shelf of saved poses and motions.</summary>
public class SavedTests
{
    private const string Pose = """{"kind":"pose","name":"Wings up","parts":[{"name":"wing.L","path":"transform.rotate.z","value":40},{"name":"wing.R","path":"transform.rotate.z","value":-40}]}""";

    private static Task<(HttpStatusCode Status, JsonElement Body)> AddAsync(TestServer server, string json) =>
        server.SendAsync(HttpMethod.Post, "/api/saved", JsonElement.Parse(json));

    private static async Task<(HttpStatusCode Status, JsonElement Body)> PictureAsync(TestServer server, string id, byte[] bytes, int count)
    {
        using var content = new ByteArrayContent(bytes);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        using var answer = await server.Client.PutAsync(new Uri($"/api/saved/{id}/picture?count={count}", UriKind.Relative), content);
        return (answer.StatusCode, JsonElement.Parse(await answer.Content.ReadAsStringAsync()));
    }

    [Fact]
    public async Task A_pose_is_kept_named_pictured_put_away_and_back_and_read_as_a_file()
    {
        await using var server = await TestServer.StartAsync();
        var (_, added) = await AddAsync(server, Pose);
        var id = added.GetProperty("id").GetString()!;
        Assert.Equal(("pose", 2, 2, 0), (added.GetProperty("kind").GetString(), added.GetProperty("channels").GetInt32(), added.GetProperty("objectCount").GetInt32(), added.GetProperty("pictures").GetInt32()));
        var (_, renamed) = await server.SendAsync(HttpMethod.Put, $"/api/saved/{id}/name", new { name = "Up" });
        Assert.Equal("Up", renamed.GetProperty("name").GetString());
        var file = ShotJson.ReadSaved((await server.GetAsync($"/api/saved/{id}")).GetRawText());
        Assert.Equal(("Up", 2), (file.Name, file.Count));

        var picture = new Bradymotus.Render.Pictures.Picture(new(24, 4), new byte[24 * 4 * 4]).ToPng();
        Assert.Equal(HttpStatusCode.OK, (await PictureAsync(server, id, picture, 3)).Status);
        Assert.Equal(picture, await server.Client.GetByteArrayAsync(new Uri($"/api/saved/{id}/picture", UriKind.Relative)));
        foreach (var (bytes, count, why) in new[] { (picture, 5, "does not divide into 5"), (picture, 0, "does not divide"), (Encoding.UTF8.GetBytes("no picture"), 1, "no picture that can be read"), (new byte[600 << 10], 1, "larger than 512 KB"), ([], 1, "No picture was sent") })
        {
            var (status, body) = await PictureAsync(server, id, bytes, count);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains(why, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }

        Assert.Equal(HttpStatusCode.NoContent, (await server.SendAsync(HttpMethod.Delete, $"/api/saved/{id}")).Status);
        Assert.Equal(0, (await server.GetAsync("/api/saved")).GetArrayLength());
        await server.SendAsync(HttpMethod.Post, $"/api/saved/{id}/undelete");
        Assert.Equal(3, Assert.Single((await server.GetAsync("/api/saved")).EnumerateArray()).GetProperty("pictures").GetInt32());
    }

    [Theory]
    [InlineData("""{"kind":"pose","name":"None","parts":[]}""", "0 channels")]
    [InlineData("""{"kind":"other","name":"None"}""", "the kind “other” is not known")]
    [InlineData("""[]""", "cannot be read")]
    public async Task What_is_no_pose_is_not_kept(string json, string why)
    {
        await using var server = await TestServer.StartAsync();
        var (status, body) = await AddAsync(server, json);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(why, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        Assert.Equal(0, (await server.GetAsync("/api/saved")).GetArrayLength());
    }
}
