using System.Net;
using Bradymotus.Core;
using Bradymotus.Server.Api;
using Bradymotus.Server.Foreign;
using Bradymotus.Server.Live;
using Bradymotus.Server.Rendering;
using Bradymotus.Server.Store;
using Hangfire;
using Hangfire.AspNetCore;
using Hangfire.InMemory;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.FileProviders;
using Microsoft.Net.Http.Headers;
using Serilog;
using Serilog.Events;

namespace Bradymotus.Server;

/// <summary>How to serve.</summary>
/// <param name="Data">The folder that holds everything.</param>
/// <param name="Port">0 takes a free one.</param>
/// <param name="Web">The folder of the built interface, or null for the API alone.</param>
/// <param name="Quiet">Logs warnings only.</param>
public sealed record ServerOptions(string Data, int Port, string? Web, bool Quiet = false);

/// <summary>Puts the server together.</summary>
public static class BradymotusServer
{
    private const string TooLarge = "The request is larger than what is taken at once: make the change in several smaller ones, or the file smaller.";

    /// <summary>A server that is ready to start: its database is up to date, unfinished renders are queued when it starts.</summary>
    /// <exception cref="Refusal">The data folder cannot be used.</exception>
    public static async Task<WebApplication> BuildAsync(ServerOptions options, CancellationToken cancel = default)
    {
        var folder = new DataFolder(options.Data);
        try
        {
            return await BuildAsync(options, folder, cancel);
        }
        catch
        {
            folder.Dispose();
            throw;
        }
    }

    private static async Task<WebApplication> BuildAsync(ServerOptions options, DataFolder folder, CancellationToken cancel)
    {
        var builder = WebApplication.CreateSlimBuilder(new WebApplicationOptions { ContentRootPath = folder.Root });
        builder.WebHost.ConfigureKestrel(k =>
        {
            k.Listen(IPAddress.Loopback, options.Port);
            k.Limits.MaxRequestBodySize = 80 << 20;
        });
        builder.Services.AddSerilog(log => log
            .MinimumLevel.Is(options.Quiet ? LogEventLevel.Warning : LogEventLevel.Information)
            .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
            .MinimumLevel.Override("Hangfire", LogEventLevel.Warning)
            .WriteTo.Console(outputTemplate: "{Timestamp:HH:mm:ss} {Level:u3} {Message:lj}{NewLine}{Exception}", formatProvider: null));
        // By a factory, so that the folder is let go of with the server.
        builder.Services.AddSingleton(_ => folder);
        builder.Services.AddSingleton(TimeProvider.System);
        builder.Services.AddDbContextFactory<StoreContext>(o => StoreContext.Configure(o, folder.Database));
        builder.Services.AddSingleton<ShotLibrary>();
        builder.Services.AddSingleton<SavedShelf>();
        builder.Services.AddSingleton<Thumbnails>();
        builder.Services.AddSingleton<Announcer>();
        builder.Services.AddSingleton<Housekeeping>();
        builder.Services.AddHostedService(s => s.GetRequiredService<Housekeeping>());
        builder.Services.AddSingleton<RenderStore>();
        builder.Services.AddSingleton<RenderNews>();
        builder.Services.AddSingleton<RenderWorker>();
        builder.Services.AddSingleton<RenderOrders>();
        builder.Services.AddSingleton<FilmEncoder>();
        builder.Services.AddSingleton<ForeignReaders>();
        builder.Services.AddHybridCache(c => c.DefaultEntryOptions = new() { LocalCacheExpiration = TimeSpan.FromMinutes(30), Expiration = TimeSpan.FromMinutes(30) });
        builder.Services.AddMemoryCache(m => m.SizeLimit = 64 << 20);
        // The package keeps these two for the whole process otherwise, and a second server in it would take the jobs of the first.
        builder.Services.AddSingleton<JobStorage>(_ => new InMemoryStorage(new InMemoryStorageOptions { MaxExpirationTime = TimeSpan.FromHours(1) }));
        builder.Services.AddSingleton<JobActivator>(s => new AspNetCoreJobActivator(s.GetRequiredService<IServiceScopeFactory>()));
        builder.Services.AddHangfire(_ => { });
        // One sequence at a time: each uses every processor.
        builder.Services.AddHangfireServer(h =>
        {
            h.WorkerCount = 1;
            h.ShutdownTimeout = TimeSpan.FromSeconds(2);
            h.StopTimeout = TimeSpan.Zero;
        });
        builder.Services.AddSignalR(s => s.MaximumReceiveMessageSize = 64 << 10);
        builder.Services.ConfigureHttpJsonOptions(o =>
        {
            o.SerializerOptions.NumberHandling = System.Text.Json.Serialization.JsonNumberHandling.Strict;
            o.SerializerOptions.RespectNullableAnnotations = true;
            o.SerializerOptions.RespectRequiredConstructorParameters = true;
        });
        // What cannot be read is answered in the same way as every refusal.
        builder.Services.Configure<Microsoft.AspNetCore.Routing.RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
        // What routing itself refuses has a sentence too.
        builder.Services.AddProblemDetails(o => o.CustomizeProblemDetails = c => c.ProblemDetails.Detail ??= c.ProblemDetails.Status switch
        {
            StatusCodes.Status404NotFound => "There is nothing at this address: compare it with the description at /openapi.json.",
            StatusCodes.Status405MethodNotAllowed => "This cannot be done at this address: compare the method with the description at /openapi.json.",
            StatusCodes.Status415UnsupportedMediaType => "The request is of a kind that is not read here: compare its Content-Type with the description at /openapi.json.",
            _ => "The request cannot be answered: compare it with the description at /openapi.json.",
        });
        builder.Services.AddOpenApi();

        var app = builder.Build();
        // A refusal is an answer, not a fault: the log is kept for faults.
        app.UseExceptionHandler(new ExceptionHandlerOptions
        {
            ExceptionHandler = AnswerAsync,
            SuppressDiagnosticsCallback = c =>
            c.Exception is Refusal or NotFoundException or BadHttpRequestException
        });
        app.UseStatusCodePages();
        app.Use(RefuseStrangersAsync);
        app.Use(Protect);
        app.Use(RefuseLargeEdits);
        if (options.Web is not null)
        {
            ServeInterface(app, options.Web);
        }
        app.MapGet("/healthz", () => "ok").ExcludeFromDescription();
        app.MapOpenApi("/openapi.json");
        app.MapShots();
        app.MapImports();
        app.MapOutlines();
        app.MapMaterials();
        app.MapMedia();
        app.MapSaved();
        app.MapRenders();
        app.MapHub<LiveHub>("/live");

        _ = app.Services.GetRequiredService<DataFolder>();
        await MigrateAsync(app, folder, cancel);
        app.Lifetime.ApplicationStarted.Register(() => app.Services.GetRequiredService<RenderOrders>().ResumeUnfinishedAsync(CancellationToken.None).GetAwaiter().GetResult());
        return app;
    }

    private static async Task MigrateAsync(WebApplication app, DataFolder folder, CancellationToken cancel)
    {
        try
        {
            await using var db = await app.Services.GetRequiredService<IDbContextFactory<StoreContext>>().CreateDbContextAsync(cancel);
            // The folder's lock is ours, so a lock that stands in the database is that of a start that was killed, and would be waited for without end.
            await db.Database.OpenConnectionAsync(cancel);
            await using (var command = db.Database.GetDbConnection().CreateCommand())
            {
                command.CommandText = "DROP TABLE IF EXISTS __EFMigrationsLock";
                await command.ExecuteNonQueryAsync(cancel);
            }
            await db.Database.MigrateAsync(cancel);
        }
        catch (Exception e) when (DiskFault(e, folder) is { } fault)
        {
            throw new Refusal($"The database in {folder.Root} cannot be used: {fault}", e);
        }
    }

    private const string Full = "the disk is full: make room there and try again. Nothing was lost.";

    /// <summary>What is wrong where the database could not be written or read, as a sentence; null for everything else.</summary>
    private static string? DiskFault(Exception? e, DataFolder folder) => (e as SqliteException ?? e?.InnerException as SqliteException)?.SqliteErrorCode switch
    {
        13 => Full,
        // Where there is no room for what it keeps beside its file, the database says no more than that something went wrong.
        10 when folder.IsFull => Full,
        8 or 14 => "it cannot be written: check the rights on the folder and try again. Nothing was lost.",
        10 => "reading or writing the disk failed: make room there, check it, and try again. Nothing was lost.",
        11 or 26 => "its file is damaged: put a copy of bradymotus.db back in its place.",
        _ => null,
    };

    private static void ServeInterface(WebApplication app, string web)
    {
        if (!File.Exists(Path.Combine(web, "index.html")))
        {
            throw new Refusal($"The interface is not built in {web}: start with ./bradymotus, which builds it.");
        }
        var files = new PhysicalFileProvider(Path.GetFullPath(web));
        var types = new FileExtensionContentTypeProvider();
        types.Mappings[".dat"] = "application/octet-stream";
        types.Mappings[".br"] = "application/octet-stream";
        app.UseDefaultFiles(new DefaultFilesOptions { FileProvider = files });
        app.Use((context, next) => SendCompressed(context, next, files));
        app.UseStaticFiles(new StaticFileOptions
        {
            FileProvider = files,
            ContentTypeProvider = types,
            OnPrepareResponse = c =>
            {
                var (path, headers) = (c.Context.Request.Path, c.Context.Response.Headers);
                // Names under assets/ carry a hash of what they hold.
                headers.CacheControl = path.StartsWithSegments("/assets", StringComparison.Ordinal) ? "public, max-age=31536000, immutable" : "no-cache";
                headers.Vary = "Accept-Encoding";
                if (path.Value is { } name && name.EndsWith(Brotli, StringComparison.Ordinal) && types.TryGetContentType(name[..^Brotli.Length], out var type))
                {
                    (headers.ContentEncoding, headers.ContentType) = ("br", type);
                }
            },
        });
    }

    private const string Brotli = ".br";

    /// <summary>Whoever takes brotli gets the copy that was compressed when the interface was built, where there is one.</summary>
    private static Task SendCompressed(HttpContext context, RequestDelegate next, PhysicalFileProvider files)
    {
        // What an endpoint answers is no file.
        if (context.GetEndpoint() is not null)
        {
            return next(context);
        }
        var (request, path) = (context.Request, context.Request.Path.Value);
        var takes = request.GetTypedHeaders().AcceptEncoding.Any(e => e.Value.Equals("br", StringComparison.OrdinalIgnoreCase) && e.Quality is null or > 0);
        if (takes && path is { Length: > 1 } && !path.EndsWith(Brotli, StringComparison.Ordinal) && files.GetFileInfo(path + Brotli).Exists)
        {
            request.Path = path + Brotli;
        }
        return next(context);
    }

    /// <summary>
    /// A page of another site may send requests to this machine. Only requests to a loopback name, and from no page or from our own, are answered.
    /// </summary>
    private static Task RefuseStrangersAsync(HttpContext context, RequestDelegate next)
    {
        var host = context.Request.Host;
        var origin = context.Request.Headers.Origin.ToString();
        var isLoopback = host.Host is "localhost" or "127.0.0.1" or "[::1]";
        var isOurs = origin.Length == 0 || origin.Equals($"{context.Request.Scheme}://{host}", StringComparison.OrdinalIgnoreCase);
        // Pictures and links of other sites send no origin, but browsers say where they stand. Opening our page by a link is fine.
        var site = context.Request.Headers["Sec-Fetch-Site"].ToString();
        var isNear = site is "" or "same-origin" or "none" || context.Request.Headers["Sec-Fetch-Mode"] == "navigate"
            && !context.Request.Path.StartsWithSegments("/api", StringComparison.OrdinalIgnoreCase);
        if (isLoopback && isOurs && isNear)
        {
            var charset = context.Request.ContentType is { } type && MediaTypeHeaderValue.TryParse(type, out var parsed) ? parsed.Charset.Value : null;
            return string.IsNullOrEmpty(charset) || charset.Trim('"').Equals("utf-8", StringComparison.OrdinalIgnoreCase)
                ? next(context)
                : TypedResults.Problem("The request is not written in UTF-8: send it with charset=utf-8, or without one.", statusCode: StatusCodes.Status415UnsupportedMediaType).ExecuteAsync(context);
        }
        return TypedResults.Problem("This server answers only its own pages on this machine.", statusCode: StatusCodes.Status403Forbidden).ExecuteAsync(context);
    }

    /// <summary>Tells browsers that nothing but our own files runs in our pages, and that no other page may hold ours.</summary>
    private static Task Protect(HttpContext context, RequestDelegate next)
    {
        var headers = context.Response.Headers;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        headers.ContentSecurityPolicy = "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
            + "connect-src 'self'; object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'";
        return next(context);
    }

    /// <summary>Read to its end all the same: who is still sending would find the line cut instead of an answer.</summary>
    private static async Task RefuseLargeEdits(HttpContext context, RequestDelegate next)
    {
        var isEdit = context.Request.Path.Value is { } path && path.TrimEnd('/').EndsWith("/journal", StringComparison.OrdinalIgnoreCase);
        if (!isEdit || !(context.Request.ContentLength > ShotEndpoints.MostEditBytes))
        {
            if (isEdit && context.Request.ContentLength is null && context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
            {
                limit.MaxRequestBodySize = ShotEndpoints.MostEditBytes;
            }
            await next(context);
            return;
        }
        await context.Request.Body.CopyToAsync(Stream.Null, context.RequestAborted);
        await TypedResults.Problem(TooLarge, statusCode: StatusCodes.Status413PayloadTooLarge).ExecuteAsync(context);
    }

    private static Task AnswerAsync(HttpContext context)
    {
        var error = context.Features.Get<IExceptionHandlerFeature>()?.Error;
        var (status, message) = error switch
        {
            Refusal => (StatusCodes.Status422UnprocessableEntity, error.Message),
            NotFoundException => (StatusCodes.Status404NotFound, error.Message),
            BadHttpRequestException { InnerException: System.Text.Json.JsonException json } bad =>
                (bad.StatusCode, $"The request cannot be read at line {(json.LineNumber ?? 0) + 1}, {json.Path ?? "$"}: compare it with the description at /openapi.json."),
            BadHttpRequestException { StatusCode: StatusCodes.Status413PayloadTooLarge } => (StatusCodes.Status413PayloadTooLarge, TooLarge),
            BadHttpRequestException bad => (bad.StatusCode, $"The request cannot be read: {bad.Message.TrimEnd('.')}."),
            _ when DiskFault(error, context.RequestServices.GetRequiredService<DataFolder>()) is { } fault => (StatusCodes.Status507InsufficientStorage, $"The change could not be kept: {fault}"),
            Microsoft.AspNetCore.Connections.ConnectionResetException or OperationCanceledException => (StatusCodes.Status499ClientClosedRequest, "The request was given up."),
            _ => (StatusCodes.Status500InternalServerError, "Something went wrong in the server; its log says what."),
        };
        return TypedResults.Problem(message, statusCode: status).ExecuteAsync(context);
    }
}
