using Bradymotus.Server.Api;
using Microsoft.AspNetCore.SignalR;

namespace Bradymotus.Server.Live;

/// <summary>Tells open windows what has happened. They ask for the rest themselves. A window watches one shot at a time.</summary>
public sealed class LiveHub : Hub
{
    private const string Watched = "watched";

    /// <summary>From now on this window hears of the shot's journal, and no longer of the one that it watched before.</summary>
    /// <exception cref="HubException">That is not the id of a shot.</exception>
    public async Task Watch(string shotId)
    {
        if (shotId is not { Length: > 0 and <= 32 } || !shotId.All(char.IsAsciiLetterOrDigit))
        {
            throw new HubException("That is not the id of a shot.");
        }
        await UnwatchAsync();
        Context.Items[Watched] = shotId;
        await Groups.AddToGroupAsync(Context.ConnectionId, shotId);
    }

    public Task Unwatch(string shotId) => shotId == Context.Items[Watched] as string ? UnwatchAsync() : Task.CompletedTask;

    private async Task UnwatchAsync()
    {
        if (Context.Items.Remove(Watched, out var before) && before is string id)
        {
            await Groups.RemoveFromGroupAsync(Context.ConnectionId, id);
        }
    }
}

/// <summary>Sends the news.</summary>
public sealed class Announcer(IHubContext<LiveHub> hub)
{
    /// <summary>A shot has a newer revision.</summary>
    public Task JournalAsync(string shotId, int revision) => hub.Clients.Group(shotId).SendAsync("journal", shotId, revision);

    /// <summary>A render has gone on, or went into the trash.</summary>
    public Task RenderAsync(RenderView view) => hub.Clients.All.SendAsync("render", view);

    /// <summary>What tells so much of a job, from 0 to 1, under the name that a window gave it; null where it gave none.</summary>
    public Action<double>? Of(string? job) => string.IsNullOrEmpty(job) ? null : part => _ = hub.Clients.All.SendAsync("job", job, part);

    /// <summary>So much of the film of a render is made, from 0 to 1.</summary>
    public Task FilmAsync(string id, double part) => hub.Clients.All.SendAsync("film", id, part);
}
