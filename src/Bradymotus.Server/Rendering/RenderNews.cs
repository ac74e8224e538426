using Bradymotus.Server.Api;
using Bradymotus.Server.Live;

namespace Bradymotus.Server.Rendering;

/// <summary>How far sequences are, for whoever asks and for every window.</summary>
public sealed class RenderNews(RenderStore store, Announcer announcer)
{
    /// <summary>The newest first.</summary>
    public async Task<List<RenderView>> ListAsync(string? shotId, CancellationToken cancel)
    {
        var (rows, version) = await store.ListAsync(shotId, cancel);
        return rows.ConvertAll(r => RenderView.Of(r, version));
    }

    /// <summary>How far a render is.</summary>
    /// <exception cref="Store.NotFoundException">There is none of this id.</exception>
    public async Task<RenderView> ViewAsync(string id, CancellationToken cancel)
    {
        var (row, version) = await store.FindAsync(id, cancel);
        return RenderView.Of(row, version);
    }

    /// <summary>Tells every window how far a render is. What has been done is told, also where whoever asked for it has gone away.</summary>
    public async Task<RenderView> TellAsync(string id)
    {
        var view = await ViewAsync(id, CancellationToken.None);
        await announcer.RenderAsync(view);
        return view;
    }
}
