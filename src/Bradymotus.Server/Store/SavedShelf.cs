using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Reader;
using Bradymotus.Server.Foreign;
using Microsoft.EntityFrameworkCore;

namespace Bradymotus.Server.Store;

/// <summary>The saved poses and motions, for all shots.</summary>
public sealed class SavedShelf(IDbContextFactory<StoreContext> contexts, ForeignReaders readers, TimeProvider clock)
{
    /// <summary>So many are on the shelf at the most.</summary>
    public const int Most = 2000;

    private const int MostPictureBytes = 512 << 10;
    private const int MostObjectsNamed = 8;

    /// <summary>What is on the shelf, newest first.</summary>
    public async Task<List<SavedRow>> ListAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        // All but the text, which may be long.
        return await db.Saved.Where(s => s.Deleted == null).OrderByDescending(s => s.Created).ThenBy(s => s.Id).Select(s => new SavedRow
        {
            Id = s.Id,
            Name = s.Name,
            Kind = s.Kind,
            Json = "",
            Objects = s.Objects,
            ObjectCount = s.ObjectCount,
            Channels = s.Channels,
            Created = s.Created,
            Pictures = s.Pictures,
        }).ToListAsync(cancel);
    }

    /// <summary>Puts one on the shelf.</summary>
    /// <exception cref="Refusal">It breaks a rule, or the shelf is full.</exception>
    public async Task<SavedRow> AddAsync(Saved saved, CancellationToken cancel)
    {
        saved.Validate();
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await db.Saved.CountAsync(s => s.Deleted == null, cancel) >= Most)
        {
            throw new Refusal($"The pose library holds {Most} poses and motions, which is all that it takes: delete some first.");
        }
        var objects = saved.Objects;
        var row = new SavedRow
        {
            Id = Guid.NewGuid().ToString("N"),
            Name = saved.Name,
            Kind = saved is SavedPose ? "pose" : "motion",
            Json = ShotJson.Write(saved),
            Objects = string.Join('\n', objects.Take(MostObjectsNamed)),
            ObjectCount = objects.Count,
            Channels = saved.Count,
            Created = clock.GetUtcNow().UtcDateTime,
        };
        db.Saved.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>One of the shelf, under the name that it has now.</summary>
    /// <exception cref="NotFoundException">There is none of this id.</exception>
    public async Task<Saved> GetAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await db.Saved.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel) ?? throw Missing(id);
        return ShotJson.Read<Saved>(row.Json, "saved pose or motion") with { Name = row.Name };
    }

    /// <exception cref="NotFoundException">There is none of this id.</exception>
    /// <exception cref="Refusal">The name cannot be used.</exception>
    public Task<SavedRow> RenameAsync(string id, string name, CancellationToken cancel)
    {
        ShotRules.ValidateName(name, "saved pose or motion");
        return ChangeAsync(id, row => row.Name = name, cancel);
    }

    /// <summary>Puts one into the trash, or back on the shelf.</summary>
    /// <exception cref="NotFoundException">There is none of this id.</exception>
    public Task<SavedRow> SetDeletedAsync(string id, bool deleted, CancellationToken cancel) =>
        ChangeAsync(id, row => row.Deleted = deleted ? clock.GetUtcNow().UtcDateTime : null, cancel);

    /// <summary>Gives one its pictures: so many of the same size beside each other.</summary>
    /// <exception cref="NotFoundException">There is none of this id.</exception>
    /// <exception cref="Refusal">It is no picture, or too large.</exception>
    public async Task<SavedRow> SetPictureAsync(string id, Upload sent, int count, CancellationToken cancel)
    {
        if (sent.Bytes > MostPictureBytes)
        {
            throw new Refusal($"The picture is larger than {MostPictureBytes >> 10} KB: send a smaller one.");
        }
        var picture = await readers.ReadAsync<MediaResult>(new ReadPicture("picture", sent.File, IsSky: false, sent.Made), sent.Bytes, null, cancel);
        if (count < 1 || picture.Width % count != 0)
        {
            throw new Refusal($"A picture {picture.Width} wide does not divide into {count}: say how many lie beside each other.");
        }
        var bytes = await File.ReadAllBytesAsync(Directory.GetFiles(sent.Made).Single(), cancel);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await db.Saved.SingleOrDefaultAsync(s => s.Id == id, cancel) ?? throw Missing(id);
        row.Pictures = count;
        var old = await db.SavedPictures.SingleOrDefaultAsync(p => p.SavedId == id, cancel);
        if (old is null)
        {
            db.SavedPictures.Add(new() { SavedId = id, Bytes = bytes });
        }
        else
        {
            old.Bytes = bytes;
        }
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>The pictures of one, or null where it has none.</summary>
    public async Task<byte[]?> PictureAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return (await db.SavedPictures.AsNoTracking().SingleOrDefaultAsync(p => p.SavedId == id, cancel))?.Bytes;
    }

    private async Task<SavedRow> ChangeAsync(string id, Action<SavedRow> change, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await db.Saved.SingleOrDefaultAsync(s => s.Id == id, cancel) ?? throw Missing(id);
        change(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }

    private static NotFoundException Missing(string id) => new("saved pose or motion", id);
}
