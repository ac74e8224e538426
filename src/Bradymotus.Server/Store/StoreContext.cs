using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace Bradymotus.Server.Store;

/// <summary>The database: one SQLite file in the data folder.</summary>
public sealed class StoreContext(DbContextOptions<StoreContext> options) : DbContext(options)
{
    public DbSet<ShotRow> Shots => Set<ShotRow>();

    public DbSet<SnapshotRow> Snapshots => Set<SnapshotRow>();

    public DbSet<JournalRow> Journal => Set<JournalRow>();

    public DbSet<RenderRow> Renders => Set<RenderRow>();

    public DbSet<RenderFrameRow> RenderFrames => Set<RenderFrameRow>();

    public DbSet<SavedRow> Saved => Set<SavedRow>();

    public DbSet<SavedPictureRow> SavedPictures => Set<SavedPictureRow>();

    public static DbContextOptionsBuilder Configure(DbContextOptionsBuilder options, string file) =>
        options.UseSqlite($"Data Source={file};Default Timeout=30").AddInterceptors(Durable.Instance);

    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        ArgumentNullException.ThrowIfNull(configurationBuilder);
        // The database does not keep the zone of a time, and a time without one would be read as local.
        configurationBuilder.Properties<DateTime>().HaveConversion<Utc>();
    }

    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        ArgumentNullException.ThrowIfNull(modelBuilder);
        modelBuilder.Entity<SnapshotRow>().HasKey(s => new { s.ShotId, s.Revision });
        modelBuilder.Entity<JournalRow>().HasKey(j => new { j.ShotId, j.Revision });
        modelBuilder.Entity<JournalRow>().HasIndex(j => new { j.ShotId, j.EntryId }).IsUnique();
        modelBuilder.Entity<JournalRow>().HasIndex(j => new { j.ShotId, j.Needs });
        modelBuilder.Entity<RenderFrameRow>().HasKey(f => new { f.RenderId, f.Frame });
        modelBuilder.Entity<RenderRow>().HasMany<RenderFrameRow>().WithOne().HasForeignKey(f => f.RenderId);
        modelBuilder.Entity<RenderRow>().HasIndex(r => r.ShotId);
        modelBuilder.Entity<RenderRow>().Property(r => r.State).HasConversion<string>().HasMaxLength(20);
        modelBuilder.Entity<RenderFrameRow>().Property(f => f.State).HasConversion<string>().HasMaxLength(20);
    }

    private sealed class Utc() : ValueConverter<DateTime, DateTime>(t => t, t => DateTime.SpecifyKind(t, DateTimeKind.Utc));

    /// <summary>A write-ahead log that is flushed to the disk with every commit: what is acknowledged survives a power cut.</summary>
    private sealed class Durable : DbConnectionInterceptor
    {
        public static Durable Instance { get; } = new();

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData) => Set(connection);

        public override Task ConnectionOpenedAsync(DbConnection connection, ConnectionEndEventData eventData, CancellationToken cancellationToken = default)
        {
            Set(connection);
            return Task.CompletedTask;
        }

        private static void Set(DbConnection connection)
        {
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;";
            command.ExecuteNonQuery();
        }
    }
}

/// <summary>For the migration tool.</summary>
internal sealed class StoreContextFactory : IDesignTimeDbContextFactory<StoreContext>
{
    public StoreContext CreateDbContext(string[] args)
    {
        var options = new DbContextOptionsBuilder<StoreContext>();
        StoreContext.Configure(options, "design.db");
        return new StoreContext(options.Options);
    }
}
