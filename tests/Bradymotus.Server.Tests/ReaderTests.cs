using System.Diagnostics;
using System.Net;
using System.Reflection.Metadata;
using System.Reflection.PortableExecutable;
using System.Text;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Formats.Outlines;
using Bradymotus.Reader;
using Bradymotus.Server.Foreign;

namespace Bradymotus.Server.Tests;

/// <summary>Foreign bytes are read in processes that have bounds, and end with whoever asked.</summary>
public sealed class ReaderTests(LongFilm film) : IClassFixture<LongFilm>, IDisposable
{
    private static readonly ReadBounds Usual = new(1L << 30, TimeSpan.FromSeconds(10), 1L << 30);

    private readonly string _folder = Directory.CreateTempSubdirectory("bradymotus-reader-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    /// <summary>A sky of so many pixels a side, all alike: Radiance pictures pack a run of one byte as two.</summary>
    private string Sky(int side)
    {
        var file = Path.Combine(_folder, "sky.hdr");
        using var to = File.Create(file);
        to.Write(Encoding.ASCII.GetBytes($"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y {side} +X {side}\n"));
        var row = new List<byte> { 2, 2, (byte)(side >> 8), (byte)side };
        for (var part = 0; part < 4; part++)
        {
            for (var left = side; left > 0; left -= Math.Min(127, left))
            {
                row.AddRange([(byte)(128 + Math.Min(127, left)), 128]);
            }
        }
        for (var y = 0; y < side; y++)
        {
            to.Write([.. row]);
        }
        return file;
    }

    private string Made() => Directory.CreateDirectory(Path.Combine(_folder, "made")).FullName;

    /// <summary>The processes whose command line has some text in it.</summary>
    private static List<int> With(string text) => [.. Directory.GetDirectories("/proc").Select(Path.GetFileName).Where(n => int.TryParse(n, out _)).Select(n => int.Parse(n!)).Where(p =>
    {
        try
        {
            return File.ReadAllText($"/proc/{p}/cmdline").Contains(text, StringComparison.Ordinal);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    })];

    private static async Task UntilAsync(Func<bool> holds, double seconds, string what)
    {
        for (var watch = Stopwatch.StartNew(); !holds(); await Task.Delay(20))
        {
            Assert.True(watch.Elapsed.TotalSeconds < seconds, $"After {seconds} s: {what}.");
        }
    }

    [Fact]
    public async Task One_process_answers_one_request_after_the_other_and_a_refusal_does_not_end_it()
    {
        using var reader = new ReaderProcess(Usual.Bytes);
        async Task<string> Words(string text) => (await reader.AskAsync(new ReadText(text, null), Usual, null, default)).Deserialize<OutlineResult>(ReaderJson.Options)!.Path;
        Assert.StartsWith("M", await Words("Quay"), StringComparison.Ordinal);
        Assert.Contains("“漢”", (await Assert.ThrowsAsync<Refusal>(() => Words("漢"))).Message, StringComparison.Ordinal);
        Assert.True(reader.IsAlive);
        Assert.Equal(await Words("Quay"), Lettering.Outline("Quay", null));
        // Numbers that are none are refused in words, as any others.
        await Assert.ThrowsAsync<Refusal>(() => reader.AskAsync(new ReadJoin([new("M0 0H1V1z", [double.PositiveInfinity, 0, 0, 1, 0, 0]), new("M0 0H1V1z", [1, 0, 0, 1, 0, 0])], OutlineJoin.Union), Usual, null, default));
        Assert.True(reader.IsAlive);
    }

    [Fact]
    public async Task What_takes_too_much_of_the_processors_is_ended_with_all_that_it_has_started()
    {
        using var reader = new ReaderProcess(Usual.Bytes);
        var refusal = await Assert.ThrowsAsync<Refusal>(() => reader.AskAsync(new ReadFilm("long.mp4", film.File, Made()), Usual with { Processor = TimeSpan.FromSeconds(2) }, null, default));
        Assert.Equal("long.mp4 takes more than 2 seconds to read: make it smaller or simpler, and try again.", refusal.Message);
        Assert.False(reader.IsAlive);
        await UntilAsync(() => With(film.File).Count == 0, 1, "something still reads it");
    }

    [Fact]
    public async Task What_takes_too_much_memory_is_refused_and_the_same_with_more_room_is_read()
    {
        var sky = Sky(4096);
        using var small = new ReaderProcess(160 << 20);
        var request = new ReadPicture("sky.hdr", sky, IsSky: true, Made());
        var refusal = await Assert.ThrowsAsync<Refusal>(() => small.AskAsync(request, Usual with { Bytes = small.Bytes }, null, default));
        Assert.Equal("sky.hdr takes more than 160 MB of memory to read: make it smaller or simpler, and try again.", refusal.Message);
        Assert.False(small.IsAlive);
        using var usual = new ReaderProcess(Usual.Bytes);
        Assert.Equal(4096, (await usual.AskAsync(request, Usual, null, default)).Deserialize<MediaResult>(ReaderJson.Options)!.Width);
        Assert.Equal([Path.GetFileName(Directory.GetFiles(Made())[0])], Directory.GetFiles(Made()).Select(Path.GetFileName));
    }

    [Fact]
    public async Task What_writes_too_much_is_ended_with_all_that_it_has_started()
    {
        using var reader = new ReaderProcess(Usual.Bytes);
        var refusal = await Assert.ThrowsAsync<Refusal>(() => reader.AskAsync(new ReadFilm("long.mp4", film.File, Made()), Usual with { Processor = TimeSpan.FromMinutes(5), Written = 1 << 20 }, null, default));
        Assert.Equal("long.mp4 takes more than 1 MB of the disk once it is read: make it smaller or simpler, and try again.", refusal.Message);
        await UntilAsync(() => With(film.File).Count == 0, 1, "something still reads it");
        // What is read so quickly that nobody looked meanwhile counts as well.
        using var other = new ReaderProcess(Usual.Bytes);
        refusal = await Assert.ThrowsAsync<Refusal>(() => other.AskAsync(new ReadPicture("sky.hdr", Sky(64), IsSky: true, Directory.CreateDirectory(Path.Combine(_folder, "other")).FullName), Usual with { Written = 100 }, null, default));
        Assert.Contains("of the disk", refusal.Message, StringComparison.Ordinal);
    }

    /// <summary>Lines of any length, as a pipe hands them out: in pieces that end anywhere.</summary>
    [Fact]
    public async Task Answers_are_read_line_by_line_and_no_longer_than_a_bound()
    {
        string[] lines = ["", "a", new('b', 16 << 10), new('c', 40_000), "d"];
        var answers = new AnswerLines(new StringReader(string.Join('\n', lines)), 40_000);
        foreach (var line in lines)
        {
            Assert.Equal(line, await answers.ReadAsync(default));
        }
        Assert.Null(await answers.ReadAsync(default));
        await Assert.ThrowsAsync<InvalidDataException>(() => new AnswerLines(new StringReader(new('e', 40_001)), 40_000).ReadAsync(default));
    }

    [Fact]
    public async Task A_process_that_was_ended_while_it_waited_is_no_fault_of_the_next_file()
    {
        using var readers = new ForeignReaders();
        async Task<string> Words() => (await readers.ReadAsync<OutlineResult>(new ReadText("Quay", null), 0, null, default)).Path;
        var first = await Words();
        using var waiting = Process.GetProcessById(Assert.Single(readers.Idle));
        waiting.Kill();
        await waiting.WaitForExitAsync();
        Assert.Equal(first, await Words());
    }

    [Fact]
    public async Task A_film_is_given_up_within_a_second_of_its_client()
    {
        await using var server = await TestServer.StartAsync();
        using var leave = new CancellationTokenSource();
        var answer = server.Client.PostAsync(new Uri("/api/films?name=long.mp4", UriKind.Relative), new ByteArrayContent(await File.ReadAllBytesAsync(film.File)), leave.Token);
        await UntilAsync(() => With(server.Folder).Count > 0, 20, "nothing reads it");
        await leave.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => answer);
        await UntilAsync(() => With(server.Folder).Count == 0, 1, "something still reads it");
        await UntilAsync(() => Directory.GetDirectories(Path.Combine(server.Folder, "uploads")).Length == 0, 1, "what was sent is still there");
    }

    [Fact]
    public async Task What_reads_ends_when_the_server_is_gone()
    {
        using var reader = Process.Start(new ProcessStartInfo(Path.Combine(AppContext.BaseDirectory, "Bradymotus.Reader")) { RedirectStandardInput = true, RedirectStandardOutput = true })!;
        await reader.StandardInput.WriteLineAsync(JsonSerializer.Serialize<ReadRequest>(new ReadFilm("long.mp4", film.File, Made()), ReaderJson.Options));
        await reader.StandardInput.FlushAsync();
        await UntilAsync(() => With(film.File).Count > 0, 20, "nothing reads it");
        reader.StandardInput.Close();
        await UntilAsync(() => reader.HasExited && With(film.File).Count == 0, 1, "something still reads it");
    }

    [Fact]
    public async Task How_much_of_a_film_is_read_is_said_and_what_comes_of_it_is_kept()
    {
        var shorter = Path.Combine(_folder, "short.mp4");
        await LongFilm.MakeAsync(shorter, "testsrc=size=640x360:rate=24:duration=8");
        using var readers = new ForeignReaders();
        var parts = new List<double>();
        var made = await readers.ReadAsync<MediaResult>(new ReadFilm("short.mp4", shorter, Made()), 1, parts.Add, default);
        Assert.Equal((640, 360, 24.0, 8.0), (made.Width, made.Height, made.FramesPerSecond, made.Seconds));
        Assert.True(File.Exists(Path.Combine(Made(), made.Asset + ".mp4")));
        Assert.NotEmpty(parts);
        Assert.All(parts, p => Assert.InRange(p, 0, 1));
        Assert.Equal(parts.Order(), parts);
    }

    [Fact]
    public async Task More_than_is_taken_is_refused_and_nothing_of_it_stays()
    {
        await using var server = await TestServer.StartAsync();
        using var body = new StreamContent(new Endless(530L << 20)) { Headers = { ContentLength = 530L << 20 } };
        using var answer = await server.Client.PostAsync(new Uri("/api/pictures?name=a.png", UriKind.Relative), body);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, answer.StatusCode);
        Assert.Empty(Directory.GetDirectories(Path.Combine(server.Folder, "uploads")));
    }

    [Fact]
    public async Task Two_files_of_one_name_and_a_form_that_is_cut_off_are_answered_in_words()
    {
        await using var server = await TestServer.StartAsync();
        const string triangle = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";
        using var twice = new MultipartFormDataContent { { new StringContent(triangle), "files", "a/sail.obj" }, { new StringContent(triangle), "files", "b/sail.obj" } };
        using var both = await server.Client.PostAsync(new Uri("/api/import", UriKind.Relative), twice);
        Assert.Equal(HttpStatusCode.OK, both.StatusCode);
        using var cut = new ByteArrayContent(Encoding.UTF8.GetBytes("--x\r\nContent-Disposition: form-data; name=\"files\"; filename=\"sail.obj\"\r\n\r\nv 0 0 0"));
        cut.Headers.TryAddWithoutValidation("Content-Type", "multipart/form-data; boundary=x");
        using var refused = await server.Client.PostAsync(new Uri("/api/import", UriKind.Relative), cut);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        Assert.Contains("no whole form", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Empty(Directory.GetDirectories(Path.Combine(server.Folder, "uploads")));
    }

    [Fact]
    public void The_server_reads_no_foreign_bytes_itself()
    {
        string[] reading = ["Importer.Read", "PictureFile.Read", "Lettering.Outline", "OutlineData.Join"];
        using var file = new PEReader(File.OpenRead(typeof(ForeignReaders).Assembly.Location));
        var metadata = file.GetMetadataReader();
        var used = metadata.MemberReferences.Select(metadata.GetMemberReference).Where(m => m.Parent.Kind == HandleKind.TypeReference)
            .Select(m => $"{metadata.GetString(metadata.GetTypeReference((TypeReferenceHandle)m.Parent).Name)}.{metadata.GetString(m.Name)}").ToHashSet();
        Assert.Contains("ShotJson.ReadShot", used);
        Assert.Empty(used.Intersect(reading));
        // That they are still called so.
        Assert.All(reading, r => Assert.Contains(typeof(Formats.Importer).Assembly.GetTypes(), t => t.GetMethods().Any(m => $"{t.Name}.{m.Name}" == r)));
    }

    [Fact]
    public void Large_files_may_cost_more_and_small_ones_never()
    {
        var model = new ReadModel("a.glb", new Dictionary<string, string>(), new(24), "");
        Assert.Equal(Usual, ForeignReaders.BoundsOf(model, 0));
        Assert.Equal(Usual, ForeignReaders.BoundsOf(model, 64 << 20));
        var large = ForeignReaders.BoundsOf(model, 512L << 20);
        Assert.True(large.Bytes > Usual.Bytes && large.Bytes < 4L << 30 && large.Processor < TimeSpan.FromMinutes(3), $"{large}");
    }

    /// <summary>So many bytes that nobody holds.</summary>
    private sealed class Endless(long length) : Stream
    {
        private long _at;

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => _at; set => throw new NotSupportedException(); }

        public override int Read(byte[] buffer, int offset, int count)
        {
            var some = (int)Math.Min(count, length - _at);
            Array.Clear(buffer, offset, some);
            _at += some;
            return some;
        }

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}

/// <summary>A film that takes many seconds to be turned into another, made once.</summary>
public sealed class LongFilm : IAsyncLifetime
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bradymotus-film-").FullName;

    public string File => Path.Combine(_folder, "long.mp4");

    public static async Task MakeAsync(string file, string source)
    {
        using var run = Process.Start(new ProcessStartInfo("ffmpeg", ["-v", "error", "-nostdin", "-y", "-f", "lavfi", "-i", source, "-c:v", "libx264", "-preset", "ultrafast", file]))!;
        await run.WaitForExitAsync();
        Assert.Equal(0, run.ExitCode);
    }

    public async ValueTask InitializeAsync() => await MakeAsync(File, "testsrc=size=1280x720:rate=24:duration=40");

    public ValueTask DisposeAsync()
    {
        Directory.Delete(_folder, recursive: true);
        return ValueTask.CompletedTask;
    }
}
