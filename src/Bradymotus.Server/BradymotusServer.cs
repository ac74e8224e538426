using System.Net;
using System.Reflection;
using Bradymotus.Core;
using Bradymotus.Server.Api;
using Bradymotus.Server.Live;
using Bradymotus.Server.Rendering;
using Bradymotus.Server.Store;
using Hangfire;
using Hangfire.InMemory;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.FileProviders;
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
    /// <summary>A server that is ready to start: its database is up to date, unfinished renders are queued when it starts.</summary>
    /// <exception cref="Refusal">The data folder cannot be used.</exception>
    public static async Task<WebApplication> BuildAsync(ServerOptions options, CancellationToken cancel = default)
    {
        var folder = new DataFolder(options.Data);
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
        builder.Services.AddSingleton(folder);
        builder.Services.AddSingleton(TimeProvider.System);
        builder.Services.AddDbContextFactory<StoreContext>(o => StoreContext.Configure(o, folder.Database));
        builder.Services.AddSingleton<ShotLibrary>();
        builder.Services.AddSingleton<Thumbnails>();
        builder.Services.AddSingleton<Announcer>();
        builder.Services.AddSingleton<RenderQueue>();
        builder.Services.AddSingleton<Film>();
        builder.Services.AddHangfire(h => h.UseInMemoryStorage(new InMemoryStorageOptions { MaxExpirationTime = TimeSpan.FromHours(1) }));
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
        builder.Services.AddProblemDetails();
        builder.Services.AddOpenApi();

        var app = builder.Build();
        // A refusal is an answer, not a fault: the log is kept for faults.
        app.UseExceptionHandler(new ExceptionHandlerOptions { ExceptionHandler = AnswerAsync, SuppressDiagnosticsCallback = c => c.Exception is Refusal or NotFoundException or BadHttpRequestException });
        app.Use(RefuseStrangersAsync);
        if (options.Web is not null)
        {
            ServeInterface(app, options.Web);
        }
        app.MapGet("/healthz", () => "ok").ExcludeFromDescription();
        app.MapOpenApi("/openapi.json");
        app.MapShots();
        app.MapRenders();
        app.MapHub<LiveHub>("/live");

        await using (var db = await app.Services.GetRequiredService<IDbContextFactory<StoreContext>>().CreateDbContextAsync(cancel))
        {
            await db.Database.MigrateAsync(cancel);
        }
        app.Lifetime.ApplicationStarted.Register(() => app.Services.GetRequiredService<RenderQueue>().ResumeUnfinishedAsync(CancellationToken.None).GetAwaiter().GetResult());
        return app;
    }

    private static void ServeInterface(WebApplication app, string web)
    {
        if (!File.Exists(Path.Combine(web, "index.html")))
        {
            throw new Refusal($"The interface is not built in {web}: start with ./bradymotus, which builds it.");
        }
        var files = new PhysicalFileProvider(Path.GetFullPath(web));
        var types = new FileExtensionContentTypeProvider();
        types.Mappings[".dat"] = "application/octet-stream";
        app.UseDefaultFiles(new DefaultFilesOptions { FileProvider = files });
        app.UseStaticFiles(new StaticFileOptions
        {
            FileProvider = files,
            ContentTypeProvider = types,
            // Names under assets/ carry a hash of what they hold.
            OnPrepareResponse = c => c.Context.Response.Headers.CacheControl =
                c.Context.Request.Path.StartsWithSegments("/assets", StringComparison.Ordinal) ? "public, max-age=31536000, immutable" : "no-cache",
        });
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
        if (isLoopback && isOurs)
        {
            return next(context);
        }
        return TypedResults.Problem("This server answers only its own pages on this machine.", statusCode: StatusCodes.Status403Forbidden).ExecuteAsync(context);
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
            BadHttpRequestException bad => (bad.StatusCode, $"The request cannot be read: {bad.Message.TrimEnd('.')}."),
            DbUpdateException => (StatusCodes.Status507InsufficientStorage, "The change could not be written to the disk: make room there and try again. Nothing was lost."),
            _ => (StatusCodes.Status500InternalServerError, "Something went wrong in the server; its log says what."),
        };
        return TypedResults.Problem(message, statusCode: status).ExecuteAsync(context);
    }
}
