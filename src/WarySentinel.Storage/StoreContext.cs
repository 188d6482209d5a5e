using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Audio;
using WarySentinel.Storage.Catalogue;
using WarySentinel.Storage.Entries;
using WarySentinel.Storage.Files;
using WarySentinel.Storage.Hosted;
using WarySentinel.Storage.Pages;
using WarySentinel.Storage.Facts;
using WarySentinel.Storage.Gates;
using WarySentinel.Storage.Letters;
using WarySentinel.Storage.Nodes;
using WarySentinel.Storage.Orders;
using WarySentinel.Storage.Passwords;
using WarySentinel.Storage.People;
using WarySentinel.Storage.Prices;
using WarySentinel.Storage.Redirects;
using WarySentinel.Storage.Sweep;

namespace WarySentinel.Storage;

/// <summary>The tables. One subclass a provider, so that each has migrations of its own.</summary>
public abstract class StoreContext(DbContextOptions options) : DbContext(options)
{
    internal DbSet<ItemRow> Items => Set<ItemRow>();

    internal DbSet<GateRow> Gates => Set<GateRow>();

    internal DbSet<FactDefinitionRow> Definitions => Set<FactDefinitionRow>();

    internal DbSet<GroupRuleRow> GroupRules => Set<GroupRuleRow>();

    internal DbSet<SharedPasswordRow> SharedPasswords => Set<SharedPasswordRow>();

    internal DbSet<MemberRow> Members => Set<MemberRow>();

    internal DbSet<FieldRow> Fields => Set<FieldRow>();

    internal DbSet<FormRow> Forms => Set<FormRow>();

    internal DbSet<AnswerRow> Answers => Set<AnswerRow>();

    internal DbSet<AnswerFileRow> AnswerFiles => Set<AnswerFileRow>();

    internal DbSet<PendingUploadRow> PendingUploads => Set<PendingUploadRow>();

    internal DbSet<JoinRequestRow> JoinRequests => Set<JoinRequestRow>();

    internal DbSet<TermsRow> Terms => Set<TermsRow>();

    internal DbSet<TermsTextRow> TermsTexts => Set<TermsTextRow>();

    internal DbSet<ConsentRow> Consents => Set<ConsentRow>();

    internal DbSet<DirectoryRow> Directory => Set<DirectoryRow>();

    internal DbSet<ListingRow> Listings => Set<ListingRow>();

    internal DbSet<MemberNoteRow> MemberNotes => Set<MemberNoteRow>();

    internal DbSet<OrganisationRow> Organisations => Set<OrganisationRow>();

    internal DbSet<OrganisationFactRow> OrganisationFacts => Set<OrganisationFactRow>();

    internal DbSet<OrganisationPersonRow> OrganisationPeople => Set<OrganisationPersonRow>();

    internal DbSet<OrganisationInvitationRow> OrganisationInvitations => Set<OrganisationInvitationRow>();

    internal DbSet<LinkRow> Links => Set<LinkRow>();

    internal DbSet<OutsideKeyRow> OutsideKeys => Set<OutsideKeyRow>();

    internal DbSet<GrantRow> Grants => Set<GrantRow>();

    internal DbSet<SessionRow> Sessions => Set<SessionRow>();

    internal DbSet<UnlockRow> Unlocks => Set<UnlockRow>();

    internal DbSet<TokenRow> Tokens => Set<TokenRow>();

    internal DbSet<RedirectRow> Redirects => Set<RedirectRow>();

    internal DbSet<EntryRow> Entries => Set<EntryRow>();

    internal DbSet<TextsRow> Texts => Set<TextsRow>();

    internal DbSet<PageRow> Pages => Set<PageRow>();

    internal DbSet<SectionRow> Sections => Set<SectionRow>();

    internal DbSet<HostedPageRow> HostedPages => Set<HostedPageRow>();

    internal DbSet<PageVersionRow> PageVersions => Set<PageVersionRow>();

    internal DbSet<PageDraftRow> PageDrafts => Set<PageDraftRow>();

    internal DbSet<PageFileRow> PageFiles => Set<PageFileRow>();

    internal DbSet<PasswordNetworkRow> PasswordNetworks => Set<PasswordNetworkRow>();

    internal DbSet<PassRow> Passes => Set<PassRow>();

    internal DbSet<PassNetworkRow> PassNetworks => Set<PassNetworkRow>();

    internal DbSet<OrderRow> Orders => Set<OrderRow>();

    internal DbSet<OrderEventRow> OrderEvents => Set<OrderEventRow>();

    internal DbSet<FulfilmentRow> Fulfilment => Set<FulfilmentRow>();

    internal DbSet<ReminderRow> Reminders => Set<ReminderRow>();

    internal DbSet<OrderSourceRow> OrderSources => Set<OrderSourceRow>();

    internal DbSet<AreaRow> Areas => Set<AreaRow>();

    internal DbSet<ShowRow> Shows => Set<ShowRow>();

    internal DbSet<SubscriberRow> Subscribers => Set<SubscriberRow>();

    internal DbSet<PriceListRow> PriceLists => Set<PriceListRow>();

    internal DbSet<CouponRow> Coupons => Set<CouponRow>();

    internal DbSet<CouponUseRow> CouponUses => Set<CouponUseRow>();

    internal DbSet<CartRow> Carts => Set<CartRow>();

    internal DbSet<OutboxRow> Outbox => Set<OutboxRow>();

    internal DbSet<LetterAttemptRow> LetterAttempts => Set<LetterAttemptRow>();

    internal DbSet<UnreachableRow> Unreachable => Set<UnreachableRow>();

    internal DbSet<LetterTemplateRow> LetterTemplates => Set<LetterTemplateRow>();

    internal DbSet<SweepRow> Sweeps => Set<SweepRow>();

    internal DbSet<SweepPartRow> SweepParts => Set<SweepPartRow>();

    internal DbSet<TryRow> Tries => Set<TryRow>();

    internal DbSet<FeedRow> Feed => Set<FeedRow>();

    internal DbSet<LeaseRow> Leases => Set<LeaseRow>();

    internal DbSet<AuditRow> Audit => Set<AuditRow>();

    internal DbSet<MarkRow> Marks => Set<MarkRow>();

    internal DbSet<KeyRow> Keys => Set<KeyRow>();

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<ItemRow>(ItemRow.Map);
        modelBuilder.Entity<GateRow>(GateRow.Map);
        modelBuilder.Entity<FactDefinitionRow>(FactDefinitionRow.Map);
        modelBuilder.Entity<GroupRuleRow>(GroupRuleRow.Map);
        modelBuilder.Entity<OrderRow>(OrderRow.Map);
        modelBuilder.Entity<OrderEventRow>(OrderEventRow.Map);
        modelBuilder.Entity<FulfilmentRow>(FulfilmentRow.Map);
        modelBuilder.Entity<ReminderRow>(ReminderRow.Map);
        modelBuilder.Entity<OrderSourceRow>(OrderSourceRow.Map);
        modelBuilder.Entity<AreaRow>(AreaRow.Map);
        modelBuilder.Entity<ShowRow>(ShowRow.Map);
        modelBuilder.Entity<SubscriberRow>(SubscriberRow.Map);
        modelBuilder.Entity<PriceListRow>(PriceListRow.Map);
        modelBuilder.Entity<CouponRow>(CouponRow.Map);
        modelBuilder.Entity<CouponUseRow>(CouponUseRow.Map);
        modelBuilder.Entity<CartRow>(CartRow.Map);
        modelBuilder.Entity<SharedPasswordRow>(SharedPasswordRow.Map);
        modelBuilder.Entity<PassRow>(PassRow.Map);
        modelBuilder.Entity<PassNetworkRow>(PassNetworkRow.Map);
        modelBuilder.Entity<MemberRow>(MemberRow.Map);
        modelBuilder.Entity<FieldRow>(FieldRow.Map);
        modelBuilder.Entity<FormRow>(FormRow.Map);
        modelBuilder.Entity<AnswerRow>(AnswerRow.Map);
        modelBuilder.Entity<AnswerFileRow>(AnswerFileRow.Map);
        modelBuilder.Entity<PendingUploadRow>(PendingUploadRow.Map);
        modelBuilder.Entity<JoinRequestRow>(JoinRequestRow.Map);
        modelBuilder.Entity<TermsRow>(TermsRow.Map);
        modelBuilder.Entity<TermsTextRow>(TermsTextRow.Map);
        modelBuilder.Entity<ConsentRow>(ConsentRow.Map);
        modelBuilder.Entity<DirectoryRow>(DirectoryRow.Map);
        modelBuilder.Entity<ListingRow>(ListingRow.Map);
        modelBuilder.Entity<MemberNoteRow>(MemberNoteRow.Map);
        modelBuilder.Entity<GrantRow>(GrantRow.Map);
        modelBuilder.Entity<OrganisationRow>(OrganisationRow.Map);
        modelBuilder.Entity<OrganisationFactRow>(OrganisationFactRow.Map);
        modelBuilder.Entity<OrganisationPersonRow>(OrganisationPersonRow.Map);
        modelBuilder.Entity<OrganisationInvitationRow>(OrganisationInvitationRow.Map);
        modelBuilder.Entity<LinkRow>(LinkRow.Map);
        modelBuilder.Entity<OutsideKeyRow>(OutsideKeyRow.Map);
        modelBuilder.Entity<SessionRow>(SessionRow.Map);
        modelBuilder.Entity<UnlockRow>(UnlockRow.Map);
        modelBuilder.Entity<TokenRow>(TokenRow.Map);
        modelBuilder.Entity<RedirectRow>(RedirectRow.Map);
        modelBuilder.Entity<EntryRow>(EntryRow.Map);
        modelBuilder.Entity<TextsRow>(TextsRow.Map);
        modelBuilder.Entity<PageRow>(PageRow.Map);
        modelBuilder.Entity<SectionRow>(SectionRow.Map);
        modelBuilder.Entity<HostedPageRow>(HostedPageRow.Map);
        modelBuilder.Entity<PageVersionRow>(PageVersionRow.Map);
        modelBuilder.Entity<PageDraftRow>(PageDraftRow.Map);
        modelBuilder.Entity<PageFileRow>(PageFileRow.Map);
        modelBuilder.Entity<PasswordNetworkRow>(PasswordNetworkRow.Map);
        modelBuilder.Entity<OutboxRow>(OutboxRow.Map);
        modelBuilder.Entity<LetterAttemptRow>(LetterAttemptRow.Map);
        modelBuilder.Entity<UnreachableRow>(UnreachableRow.Map);
        modelBuilder.Entity<LetterTemplateRow>(LetterTemplateRow.Map);
        modelBuilder.Entity<SweepRow>(SweepRow.Map);
        modelBuilder.Entity<SweepPartRow>(SweepPartRow.Map);
        modelBuilder.Entity<TryRow>(TryRow.Map);
        modelBuilder.Entity<FeedRow>(FeedRow.Map);
        modelBuilder.Entity<LeaseRow>(LeaseRow.Map);
        modelBuilder.Entity<AuditRow>(AuditRow.Map);
        modelBuilder.Entity<MarkRow>(MarkRow.Map);
        modelBuilder.Entity<KeyRow>(KeyRow.Map);
        // Between two rooms: shared passwords go with their gate, and what they unlocked with them.
        modelBuilder.Entity<SharedPasswordRow>().HasOne<GateRow>().WithMany().HasForeignKey(r => r.Gate).OnDelete(DeleteBehavior.Cascade);
        modelBuilder.Entity<UnlockRow>().HasOne<SharedPasswordRow>().WithMany().HasForeignKey(r => r.PasswordId).OnDelete(DeleteBehavior.Cascade);
    }

    /// <inheritdoc/>
    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        configurationBuilder.Properties<DateTimeOffset>().HaveConversion<UtcTicks>();
    }

    /// <summary>Times as UTC ticks (100 ns): ordered alike on every provider.</summary>
    internal sealed class UtcTicks() : ValueConverter<DateTimeOffset, long>(v => v.UtcTicks, v => new DateTimeOffset(v, TimeSpan.Zero));
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

    public static void Map(EntityTypeBuilder<AuditRow> e)
    {
        e.ToTable("audit");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Subject);
    }
}

/// <summary>A named value of the whole store: its revision, its settings.</summary>
internal sealed class MarkRow
{
    public required string Name { get; set; }

    public long Number { get; set; }

    public string? Text { get; set; }

    public static void Map(EntityTypeBuilder<MarkRow> e)
    {
        e.ToTable("marks");
        e.HasKey(r => r.Name);
    }
}

internal sealed class KeyRow
{
    public required string Name { get; set; }

    public required string Xml { get; set; }

    public static void Map(EntityTypeBuilder<KeyRow> e)
    {
        e.ToTable("protection_keys");
        e.HasKey(r => r.Name);
    }
}
