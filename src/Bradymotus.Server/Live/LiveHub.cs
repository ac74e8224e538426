using Bradymotus.Server.Api;
using Bradymotus.Server.Store;
using Microsoft.AspNetCore.SignalR;

namespace Bradymotus.Server.Live;

/// <summary>Tells open windows what has happened. They ask for the rest themselves.</summary>
public sealed class LiveHub : Hub
{
    /// <summary>From now on this window hears of the shot's journal.</summary>
    public Task Watch(string shotId) => Groups.AddToGroupAsync(Context.ConnectionId, shotId);

    public Task Unwatch(string shotId) => Groups.RemoveFromGroupAsync(Context.ConnectionId, shotId);
}

/// <summary>Sends the news.</summary>
public sealed class Announcer(IHubContext<LiveHub> hub)
{
    /// <summary>A shot has a newer revision.</summary>
    public Task JournalAsync(string shotId, int revision) => hub.Clients.Group(shotId).SendAsync("journal", shotId, revision);

    /// <summary>A render has gone on.</summary>
    public Task RenderAsync(RenderRow row) => hub.Clients.All.SendAsync("render", RenderView.Of(row));
}
