using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.People;

internal sealed class OrganisationRow
{
    public Guid Id { get; set; }

    public required string Key { get; set; }

    public required string Title { get; set; }

    public int Seats { get; set; }

    public DateTimeOffset? Until { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public int Version { get; set; }

    /// <summary>What is searched: title and key, folded.</summary>
    public string Search { get; set; } = "";

    public List<OrganisationFactRow> Facts { get; set; } = [];

    public List<OrganisationPersonRow> People { get; set; } = [];

    public List<OrganisationInvitationRow> Invitations { get; set; } = [];

    public static OrganisationRow Of(Organisation one) => new()
    {
        Id = one.Id, Key = one.Key, Title = one.Title, Seats = one.Seats, Until = one.Until, CreatedAt = one.CreatedAt, Version = one.Version,
        Search = Spelling.Folded($"{one.Title}\n{one.Key}"),
    };

    public Organisation ToOrganisation() => new(Id, Key, Title, Seats, CreatedAt, Version)
    {
        Until = Until,
        Facts = [.. Facts.Where(f => Enum.IsDefined((FactKind)f.Kind)).OrderBy(f => f.Position).Select(f => f.ToFact())],
        People = [.. People.OrderBy(p => p.JoinedAt).ThenBy(p => p.MemberId).Select(p => p.ToPerson())],
        Invitations = [.. Invitations.OrderBy(i => i.At).ThenBy(i => i.Id).Select(i => i.ToInvitation())],
    };

    public static void Map(EntityTypeBuilder<OrganisationRow> e)
    {
        e.ToTable("organisations");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Key).IsUnique();
        e.Property(r => r.Version).IsConcurrencyToken();
        e.HasMany(r => r.Facts).WithOne().HasForeignKey(f => f.OrganisationId).OnDelete(DeleteBehavior.Cascade);
        e.HasMany(r => r.People).WithOne().HasForeignKey(p => p.OrganisationId).OnDelete(DeleteBehavior.Cascade);
        e.HasMany(r => r.Invitations).WithOne().HasForeignKey(i => i.OrganisationId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class OrganisationFactRow
{
    public Guid OrganisationId { get; set; }

    public int Kind { get; set; }

    public required string Key { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    public int Position { get; set; }

    public static OrganisationFactRow Of(Guid organisation, OrganisationFact fact, int position) => new()
    { OrganisationId = organisation, Kind = (int)fact.Kind, Key = fact.Key, From = fact.From, Until = fact.Until, Position = position };

    public OrganisationFact ToFact() => new((FactKind)Kind, Key, From, Until);

    public static void Map(EntityTypeBuilder<OrganisationFactRow> e)
    {
        e.ToTable("organisation_facts");
        e.HasKey(r => new { r.OrganisationId, r.Kind, r.Key });
        e.HasIndex(r => new { r.Kind, r.Key });
    }
}

internal sealed class OrganisationPersonRow
{
    public Guid OrganisationId { get; set; }

    public Guid MemberId { get; set; }

    public bool Manages { get; set; }

    public DateTimeOffset JoinedAt { get; set; }

    public static OrganisationPersonRow Of(Guid organisation, OrganisationPerson person) => new()
    { OrganisationId = organisation, MemberId = person.Member, Manages = person.Manages, JoinedAt = person.JoinedAt };

    public OrganisationPerson ToPerson() => new(MemberId, Manages, JoinedAt);

    public static void Map(EntityTypeBuilder<OrganisationPersonRow> e)
    {
        e.ToTable("organisation_people");
        e.HasKey(r => new { r.OrganisationId, r.MemberId });
        e.HasIndex(r => r.MemberId);
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class OrganisationInvitationRow
{
    public Guid Id { get; set; }

    public Guid OrganisationId { get; set; }

    public required string Email { get; set; }

    public bool Manages { get; set; }

    public DateTimeOffset At { get; set; }

    public DateTimeOffset SentAt { get; set; }

    public DateTimeOffset Until { get; set; }

    public required string By { get; set; }

    public static OrganisationInvitationRow Of(Guid organisation, OrganisationInvitation asked) => new()
    {
        Id = asked.Id, OrganisationId = organisation, Email = asked.Email, Manages = asked.Manages, At = asked.At, SentAt = asked.SentAt,
        Until = asked.Until, By = asked.By,
    };

    public OrganisationInvitation ToInvitation() => new(Id, Email, Manages, At, SentAt, Until, By);

    public static void Map(EntityTypeBuilder<OrganisationInvitationRow> e)
    {
        e.ToTable("organisation_invitations");
        e.HasKey(r => r.Id);
        e.HasIndex(r => new { r.OrganisationId, r.Email }).IsUnique();
        e.HasIndex(r => r.Email);
    }
}
