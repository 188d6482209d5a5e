using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Catalogue;
using WarySentinel.Storage.Delivery;
using WarySentinel.Storage.Nodes;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>The tables. One subclass a provider, so that each has migrations of its own.</summary>
public abstract class StoreContext(DbContextOptions options) : DbContext(options)
{
    internal DbSet<ItemRow> Items => Set<ItemRow>();

    internal DbSet<GateRow> Gates => Set<GateRow>();

    internal DbSet<StandingRow> Standings => Set<StandingRow>();

    internal DbSet<SharedPasswordRow> SharedPasswords => Set<SharedPasswordRow>();

    internal DbSet<MemberRow> Members => Set<MemberRow>();

    internal DbSet<GrantRow> Grants => Set<GrantRow>();

    internal DbSet<SessionRow> Sessions => Set<SessionRow>();

    internal DbSet<UnlockRow> Unlocks => Set<UnlockRow>();

    internal DbSet<TokenRow> Tokens => Set<TokenRow>();

    internal DbSet<RedirectRow> Redirects => Set<RedirectRow>();

    internal DbSet<PasswordNetworkRow> PasswordNetworks => Set<PasswordNetworkRow>();

    internal DbSet<OutboxRow> Outbox => Set<OutboxRow>();

    internal DbSet<SweepRow> Sweeps => Set<SweepRow>();

    internal DbSet<TryRow> Tries => Set<TryRow>();

    internal DbSet<FeedRow> Feed => Set<FeedRow>();

    internal DbSet<LeaseRow> Leases => Set<LeaseRow>();

    internal DbSet<AuditRow> Audit => Set<AuditRow>();

    internal DbSet<MarkRow> Marks => Set<MarkRow>();

    internal DbSet<KeyRow> Keys => Set<KeyRow>();

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<ItemRow>(e =>
        {
            e.ToTable("items");
            e.HasKey(r => r.Id);
        });
        modelBuilder.Entity<GateRow>(e =>
        {
            e.ToTable("gates");
            e.HasKey(r => r.Key);
        });
        modelBuilder.Entity<StandingRow>(e =>
        {
            e.ToTable("standings");
            e.HasKey(r => new { r.Kind, r.Key });
        });
        modelBuilder.Entity<SharedPasswordRow>(e =>
        {
            e.ToTable("shared_passwords");
            e.HasKey(r => r.Id);
            e.HasIndex(r => r.Digest);
            e.HasOne<GateRow>().WithMany().HasForeignKey(r => r.Gate).OnDelete(DeleteBehavior.Cascade);
        });
        modelBuilder.Entity<MemberRow>(e =>
        {
            e.ToTable("members");
            e.HasKey(r => r.Id);
            e.HasIndex(r => r.Email).IsUnique();
            e.HasIndex(r => r.UserName).IsUnique();
            // Few, beside those who are active: whoever counts holders leaves these out.
            e.HasIndex(r => r.Id, "IX_members_Inactive").HasFilter("\"Status\" <> 3");
            e.Property(r => r.Version).IsConcurrencyToken();
            e.Property(r => r.Search).HasDefaultValue("");
            e.HasMany(r => r.Grants).WithOne().HasForeignKey(g => g.MemberId).OnDelete(DeleteBehavior.Cascade);
        });
        modelBuilder.Entity<GrantRow>(e =>
        {
            e.ToTable("grants");
            e.HasKey(r => r.Id);
            // Holds all that counting holders asks for.
            e.HasIndex(r => new { r.Kind, r.Key, r.MemberId, r.From, r.Until }, "IX_grants_Holders");
            e.HasIndex(r => r.Until);
            e.HasIndex(r => new { r.MemberId, r.Kind, r.Key, r.Source, r.Reference }).IsUnique();
            e.Property(r => r.Reference).HasDefaultValue("");
        });
        modelBuilder.Entity<SessionRow>(e =>
        {
            e.ToTable("sessions");
            e.HasKey(r => r.Id);
            e.HasIndex(r => r.Until);
            e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
            // No foreign keys: to add one SQLite must build the table anew, in several steps, and a start that is killed between them is never taken up again.
            e.HasIndex(r => r.MadeBySession);
            e.HasIndex(r => r.MadeByToken);
            e.HasMany(r => r.Unlocks).WithOne().HasForeignKey(u => u.SessionId).OnDelete(DeleteBehavior.Cascade);
        });
        modelBuilder.Entity<UnlockRow>(e =>
        {
            e.ToTable("unlocks");
            e.HasKey(r => new { r.SessionId, r.PasswordId });
            e.HasOne<SharedPasswordRow>().WithMany().HasForeignKey(r => r.PasswordId).OnDelete(DeleteBehavior.Cascade);
        });
        modelBuilder.Entity<TokenRow>(e =>
        {
            e.ToTable("tokens");
            e.HasKey(r => r.Id);
            e.HasIndex(r => r.Digest).IsUnique();
            e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
        });
        modelBuilder.Entity<RedirectRow>(e =>
        {
            e.ToTable("redirects");
            e.HasKey(r => r.Key);
        });
        modelBuilder.Entity<PasswordNetworkRow>(e =>
        {
            e.ToTable("password_networks");
            e.HasKey(r => new { r.PasswordId, r.Network });
            e.HasOne<SharedPasswordRow>().WithMany().HasForeignKey(r => r.PasswordId).OnDelete(DeleteBehavior.Cascade);
        });
        modelBuilder.Entity<OutboxRow>(e =>
        {
            e.ToTable("outbox");
            e.HasKey(r => r.Id);
            e.HasIndex(r => new { r.SentAt, r.NextTryAt });
        });
        modelBuilder.Entity<SweepRow>(e =>
        {
            e.ToTable("sweeps");
            e.HasKey(r => r.Id);
            e.HasIndex(r => r.StartedAt);
        });
        modelBuilder.Entity<TryRow>(e =>
        {
            e.ToTable("tries");
            e.HasKey(r => r.Name);
            e.HasIndex(r => r.Last);
        });
        modelBuilder.Entity<FeedRow>(e =>
        {
            e.ToTable("feed");
            e.HasKey(r => r.Id);
        });
        modelBuilder.Entity<LeaseRow>(e =>
        {
            e.ToTable("leases");
            e.HasKey(r => r.Name);
        });
        modelBuilder.Entity<AuditRow>(e =>
        {
            e.ToTable("audit");
            e.HasKey(r => r.Id);
            e.HasIndex(r => r.Subject);
        });
        modelBuilder.Entity<MarkRow>(e =>
        {
            e.ToTable("marks");
            e.HasKey(r => r.Name);
        });
        modelBuilder.Entity<KeyRow>(e =>
        {
            e.ToTable("protection_keys");
            e.HasKey(r => r.Name);
        });
    }

    /// <inheritdoc/>
    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        configurationBuilder.Properties<DateTimeOffset>().HaveConversion<UtcTicks>();
    }

    /// <summary>Times as UTC ticks (100 ns): ordered alike on every provider.</summary>
    private sealed class UtcTicks() : ValueConverter<DateTimeOffset, long>(v => v.UtcTicks, v => new DateTimeOffset(v, TimeSpan.Zero));
}

/// <summary>The tables on SQLite.</summary>
public sealed class SqliteContext(DbContextOptions<SqliteContext> options) : StoreContext(options);

/// <summary>The tables on PostgreSQL.</summary>
public sealed class PostgresContext(DbContextOptions<PostgresContext> options) : StoreContext(options);

internal sealed class AuditRow
{
    public long Id { get; set; }

    public DateTimeOffset At { get; set; }

    public required string By { get; set; }

    public required string Action { get; set; }

    public required string Subject { get; set; }

    public string? Before { get; set; }

    public string? After { get; set; }

    public string? Detail { get; set; }
}

/// <summary>A named value of the whole store: its revision, its settings.</summary>
internal sealed class MarkRow
{
    public required string Name { get; set; }

    public long Number { get; set; }

    public string? Text { get; set; }
}

internal sealed class KeyRow
{
    public required string Name { get; set; }

    public required string Xml { get; set; }
}
