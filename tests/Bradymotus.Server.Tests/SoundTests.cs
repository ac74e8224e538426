using System.Buffers.Binary;
using System.Diagnostics;
using System.Net;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Server.Rendering;

namespace Bradymotus.Server.Tests;

/// <summary>Sounds: taken over from files, and mixed into films. Files are made, and films read back, by the ffmpeg of the system.</summary>
public sealed class SoundTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bradymotus-sound-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static async Task<byte[]> RunAsync(params string[] arguments)
    {
        using var run = Process.Start(new ProcessStartInfo("ffmpeg", ["-v", "error", "-nostdin", "-y", .. arguments]) { RedirectStandardOutput = true })!;
        using var output = new MemoryStream();
        await run.StandardOutput.BaseStream.CopyToAsync(output);
        await run.WaitForExitAsync();
        Assert.Equal(0, run.ExitCode);
        return output.ToArray();
    }

    private string At(string name) => Path.Combine(_folder, name);

    /// <summary>Two seconds, silent but for a tone from 1.0 to 1.5.</summary>
    private async Task<byte[]> ToneAsync(string name, params string[] more)
    {
        await RunAsync(["-f", "lavfi", "-i", "aevalsrc='if(between(t,1,1.5),0.5*sin(2*PI*1000*t),0)':s=48000:d=2", .. more, At(name)]);
        return await File.ReadAllBytesAsync(At(name));
    }

    private static async Task<(HttpStatusCode Status, JsonElement Body)> AddAsync(TestServer server, string name, byte[] bytes)
    {
        using var answer = await server.Client.PostAsync(new Uri($"/api/sounds?name={name}", UriKind.Relative), new ByteArrayContent(bytes));
        return (answer.StatusCode, JsonElement.Parse(await answer.Content.ReadAsStringAsync()));
    }

    /// <summary>How loud each hundredth of a second is: the greatest of its samples, 0 to 1.</summary>
    private static async Task<double[]> LoudnessAsync(string file)
    {
        var raw = await RunAsync("-i", file, "-f", "s16le", "-ac", "2", "-ar", "48000", "-");
        var samples = MemoryMarshal.Cast<byte, short>(raw).ToArray();
        return [.. samples.Chunk(960).Select(c => c.Max(s => Math.Abs((int)s)) / 32768.0)];
    }

    private static void IsTone(double[] loud, double from, double to, double level)
    {
        for (var i = 0; i < loud.Length; i++)
        {
            var t = (i + 0.5) / 100;
            if (t > from + 0.02 && t < to - 0.02)
            {
                Assert.InRange(loud[i], 0.85 * level, 1.15 * level);
            }
            else if (t < from - 0.03 || t > to + 0.03)
            {
                Assert.InRange(loud[i], 0, 0.02);
            }
        }
    }

    [Fact]
    public async Task Sounds_of_every_kind_are_kept_as_one_and_served_to_be_played()
    {
        await using var server = await TestServer.StartAsync();
        foreach (var (name, more) in new (string, string[])[]
        {
            ("a.wav", []), ("b.flac", []), ("c.mp3", ["-c:a", "libmp3lame"]), ("d.ogg", ["-c:a", "libvorbis", "-af", "pan=stereo|c0=c0|c1=c0"]), ("e.wav", ["-c:a", "pcm_s24le", "-ar", "44100"]),
        })
        {
            var (status, body) = await AddAsync(server, name, await ToneAsync(name, more));
            Assert.Equal((HttpStatusCode.OK, name), (status, body.GetProperty("name").GetString()));
            Assert.Equal(2, body.GetProperty("seconds").GetDouble(), 0.06);
            using var answer = await server.Client.GetAsync(new Uri($"/api/assets/{body.GetProperty("asset").GetString()}", UriKind.Relative));
            Assert.Equal("audio/flac", answer.Content.Headers.ContentType!.MediaType);
            await File.WriteAllBytesAsync(At("kept.flac"), await answer.Content.ReadAsByteArrayAsync());
            IsTone(await LoudnessAsync(At("kept.flac")), 1, 1.5, 0.5);
        }
        // The same file is the same asset.
        var again = await AddAsync(server, "a.wav", await File.ReadAllBytesAsync(At("a.wav")));
        var first = await AddAsync(server, "x.wav", await File.ReadAllBytesAsync(At("a.wav")));
        Assert.Equal(first.Body.GetProperty("asset").GetString(), again.Body.GetProperty("asset").GetString());
    }

    [Fact]
    public async Task What_is_no_sound_is_refused_in_one_sentence()
    {
        await using var server = await TestServer.StartAsync();
        var tone = await ToneAsync("a.wav");
        // A WAV whose data is none, one that says it is hours long, a silent film, and texts that name other files.
        var empty = tone[..44];
        BinaryPrimitives.WriteUInt32LittleEndian(empty.AsSpan(4), 36);
        BinaryPrimitives.WriteUInt32LittleEndian(empty.AsSpan(40), 0);
        await RunAsync("-f", "lavfi", "-i", "anullsrc=r=8000:cl=mono", "-t", "1900", "-c:a", "libmp3lame", "-b:a", "8k", At("long.mp3"));
        await RunAsync("-f", "lavfi", "-i", "color=gray:size=16x16:rate=8:duration=0.5", At("silent.mkv"));
        foreach (var (name, bytes, part) in new (string, byte[], string)[]
        {
            ("none.wav", Encoding.ASCII.GetBytes("nothing"), "no sound that can be read"), ("empty.wav", empty, "empty.wav"), ("blank.wav", [], "No sound was sent"),
            ("long.mp3", await File.ReadAllBytesAsync(At("long.mp3")), "32 minutes long; at most 30"), ("silent.mkv", await File.ReadAllBytesAsync(At("silent.mkv")), "holds no sound"),
            ("list.m3u8", Encoding.ASCII.GetBytes("#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"), "list.m3u8"),
        })
        {
            var (status, body) = await AddAsync(server, name, bytes);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains(part, body.GetProperty("detail").GetString(), StringComparison.Ordinal);
        }
        Assert.False(Directory.Exists(Path.Combine(server.Folder, "assets")) && Directory.EnumerateFiles(Path.Combine(server.Folder, "assets")).Any());
        // Nor can a shot have one that is not there.
        var id = await server.NewShotAsync();
        var edit = new PutSound(new("s", "Bell", new string('a', 64), 2));
        var (refused, why) = await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", new { revision = 0, entries = new[] { JsonElement.Parse(ShotJson.Write<JournalEntry>(new EditEntry(edit) { Id = "e" })) } });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused);
        Assert.Contains("The sound “Bell” is not here", why.GetProperty("detail").GetString(), StringComparison.Ordinal);
    }

    private static Shot Shot(params Sound[] sounds) => Core.Scene.Shot.Empty("Sound") with { Range = new FrameRange(0, 71), Sounds = [.. sounds] };

    private async Task<double[]> MixAsync(Shot shot, IEnumerable<int> frames, double rate = 24)
    {
        var flac = await File.ReadAllBytesAsync(At("tone.flac"));
        await SoundMix.WriteAsync(At("mix.wav"), shot, [.. frames], rate, name => name == new string('a', 64) ? flac : null, isBare: false, CancellationToken.None);
        return await LoudnessAsync(At("mix.wav"));
    }

    [Fact]
    public async Task A_mix_has_each_sound_where_it_lies_as_loud_as_its_level_says()
    {
        await ToneAsync("tone.flac", "-af", "pan=stereo|c0=c0|c1=c0");
        var sound = new Sound("s", "Tone", new string('a', 64), 2);
        // The tone begins a second into the file: on frame 24, 36 when it begins on 12, 12 when it began twelve frames before the shot.
        IsTone(await MixAsync(Shot(sound), Enumerable.Range(0, 72)), 1, 1.5, 0.5);
        IsTone(await MixAsync(Shot(sound with { Start = 12 }), Enumerable.Range(0, 72)), 1.5, 2, 0.5);
        IsTone(await MixAsync(Shot(sound with { Start = -12 }), Enumerable.Range(0, 72)), 0.5, 1, 0.5);
        // A film that begins on frame 24 begins with the tone; every other frame at 12 a second lasts as long.
        IsTone(await MixAsync(Shot(sound), Enumerable.Range(24, 24)), 0, 0.5, 0.5);
        IsTone(await MixAsync(Shot(sound), Enumerable.Range(0, 36).Select(f => 2 * f), 12), 1, 1.5, 0.5);
        // Repeated, it sounds again.
        var twice = await MixAsync(Shot(sound), Enumerable.Repeat(Enumerable.Range(24, 24), 2).SelectMany(f => f));
        Assert.Equal(200, twice.Length);
        Assert.InRange(twice[125], 0.4, 0.6);
        Assert.All((await MixAsync(Shot(sound with { Muted = true }), Enumerable.Range(0, 48))), l => Assert.Equal(0, l));
        var faded = Shot(sound).With(new("s", Sound.Level), new Channel(1, new Curve([new(24, 0, Segment.Linear), new(36, 1)])));
        var loud = await MixAsync(faded, Enumerable.Range(0, 72));
        Assert.InRange(loud[112], 0.1, 0.15);
        Assert.InRange(loud[137], 0.35, 0.4);
        // Two at once add up, and no more than there is room for.
        IsTone(await MixAsync(Shot(sound.With(0.5), (sound with { Id = "t" }).With(0.5)), Enumerable.Range(0, 72)), 1, 1.5, 0.5);
        IsTone(await MixAsync(Shot(sound.With(4)), Enumerable.Range(0, 72)), 1, 1.5, 1);
        Assert.Contains("“Other” is not here", (await Assert.ThrowsAsync<Refusal>(() => MixAsync(Shot(new Sound("o", "Other", new string('b', 64), 1)), [0]))).Message);
        Assert.Equal(["mix.wav", "tone.flac"], Directory.GetFiles(_folder).Select(f => Path.GetFileName(f)).Order());
    }

    /// <summary>Of every third frame each picture lasts for three, and so does what is heard under it.</summary>
    [Theory]
    [InlineData("0-29")]
    [InlineData("0-29/3")]
    public async Task A_film_of_a_shot_sounds_as_it_does_and_the_sound_is_there_in_its_zip(string frames)
    {
        await using var server = await TestServer.StartAsync();
        var id = await server.NewShotAsync();
        var (_, added) = await AddAsync(server, "tone.wav", await ToneAsync("tone.wav"));
        var edit = new PutSound(new("s", "Tone", added.GetProperty("asset").GetString()!, added.GetProperty("seconds").GetDouble(), -12));
        var (status, _) = await server.SendAsync(HttpMethod.Post, $"/api/shots/{id}/journal", new { revision = 0, entries = new[] { JsonElement.Parse(ShotJson.Write<JournalEntry>(new EditEntry(edit) { Id = "e" })) } });
        Assert.Equal(HttpStatusCode.OK, status);
        var (_, render) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = id, frames, width = 32, height = 16, quality = "draft" });
        var order = render.GetProperty("id").GetString();
        for (var i = 0; i < 400 && (await server.GetAsync($"/api/renders/{order}")).GetProperty("state").GetString() != "done"; i++)
        {
            await Task.Delay(50);
        }
        // Under the pictures alone, for whoever plays them; once it is fetched nothing of it is left.
        await File.WriteAllBytesAsync(At("sound.wav"), await server.Client.GetByteArrayAsync(new Uri($"/api/renders/{order}/sound", UriKind.Relative)));
        Assert.Equal(44 + 4 * 60_000, new FileInfo(At("sound.wav")).Length);
        IsTone(await LoudnessAsync(At("sound.wav")), 0.5, 1, 0.5);
        Assert.Equal(HttpStatusCode.OK, (await server.SendAsync(HttpMethod.Post, $"/api/renders/{order}/film", new { times = 1 })).Status);
        await File.WriteAllBytesAsync(At("film.mp4"), await server.Client.GetByteArrayAsync(new Uri($"/api/renders/{order}/film", UriKind.Relative)));
        IsTone(await LoudnessAsync(At("film.mp4")), 0.5, 1, 0.5);
        var folder = Path.Combine(server.Folder, "renders", order!);
        Assert.DoesNotContain(Directory.GetFiles(folder), f => f.EndsWith(".wav", StringComparison.Ordinal) || f.EndsWith(".raw", StringComparison.Ordinal));
        // Of a shot that is silent there is none.
        var (_, silent) = await server.SendAsync(HttpMethod.Post, "/api/renders", new { shotId = await server.NewShotAsync(), frames = "0-1", width = 32, height = 16, quality = "draft" });
        Assert.Equal(HttpStatusCode.NoContent, (await server.Client.GetAsync(new Uri($"/api/renders/{silent.GetProperty("id").GetString()}/sound", UriKind.Relative))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await server.Client.GetAsync(new Uri("/api/renders/none/sound", UriKind.Relative))).StatusCode);
    }
}

file static class Levels
{
    internal static Sound With(this Sound sound, double level) =>
        sound with { Channels = System.Collections.Immutable.ImmutableSortedDictionary<string, Channel>.Empty.Add(Sound.Level, new Channel(level)) };
}
