using System.Buffers.Binary;
using System.Collections.Frozen;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Pages;

/// <summary>
/// Shows staff each page that visitors meet, also those that only members or the readers of a letter see: through the eyes of a guest, or of a member who is
/// made up and stored nowhere. The address bears a ticket that only who may read the policy is given, good for an hour at most, and for looking
/// alone: whatever is sent from such a page is sent by whoever really sends it.
/// </summary>
public sealed class SamplePages(Secrets secrets, PolicyHolder policies, ServiceOptions options, TimeProvider time)
{
    /// <summary>The purpose of the tickets; no session is ever of it.</summary>
    private const byte TicketPurpose = 101;

    private const string Field = "sample";
    private static readonly TimeSpan Step = TimeSpan.FromMinutes(30);
    private static readonly FrozenSet<string> AsGuest = FrozenSet.Create(
        StringComparer.Ordinal, "sign-in", "register", "letter-sign-in", "forgotten", "set-password", "confirm", "join", "unlock", "thanks", "application",
        "search", "terms", "failure");

    private static readonly FrozenSet<string> AsMember = FrozenSet.Create(
        StringComparer.Ordinal, "account", "profile", "change-password", "address", "letters", "directory", "sign-out");

    /// <summary>The address on the site at which a page can be looked at; null where it is off, or there is nothing to look at yet.</summary>
    public string? AddressOf(VisitorPage page)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var book = PageBook.Of(policy);
        if (book.Find(page.Key).IsOff || !IsThere(page.Key, policy, now))
        {
            return null;
        }

        if (page.Key == "refused")
        {
            return ClosedAddress.Of(policy, now, 1) is [var closed] ? closed.Address : null;
        }

        return $"{book.AddressOf(options.AccountPrefix, page.Path)}?{Field}={Ticket(now)}";
    }

    /// <summary>Who looks at a page by such an address; null where nobody does.</summary>
    public RequestIdentity? IdentityOf(HttpContext http)
    {
        var request = http.Request;
        if (!HttpMethods.IsGet(request.Method) || request.Query[Field] is not [{ } ticket] || !IsGood(ticket)
            || VisitorPages.All.FirstOrDefault(p => string.Equals(options.AccountPrefix + p.Path, request.Path.Value, StringComparison.OrdinalIgnoreCase)
            && p.Key != "refused") is not { } page)
        {
            return null;
        }

        var sample = Made(policies.Current, time.GetUtcNow());
        var address = http.Connection.RemoteIpAddress;
        return AsMember.Contains(page.Key) ? new RequestIdentity(VisitorOf(sample).From(address), null) { Sample = sample }
            : AsGuest.Contains(page.Key) ? new RequestIdentity(new Visitor { IsViewpoint = true }.From(address), null) { Sample = sample } : null;
    }

    /// <summary>A link that the member might have followed.</summary>
    internal static FollowedAccount LinkOf(Member sample, LinkPurpose purpose, DateTimeOffset now) => new(
        new SingleUseLink(Guid.Empty, purpose, new Secret(""), sample.Id, sample.Email, now, now + Step), sample);

    /// <summary>An invitation that the member might have been sent by an organisation.</summary>
    internal static FollowedLink InvitationOf(Member sample, DateTimeOffset now) => new(
        LinkOf(sample, LinkPurpose.Invitation, now).Link,
        new Organisation(Guid.Empty, "sample", SamplePerson.Organisation, 1, now)
        { Invitations = [new OrganisationInvitation(Guid.Empty, sample.Email, false, now, now, now + Step, "")] }, null);

    /// <summary>What they might have asked for by the site's first form.</summary>
    internal static JoinRequest RequestOf(Member sample, Policy policy, DateTimeOffset now) => new(
        Guid.Empty, sample.Id, FormBook.Of(policy).Forms is [var form, ..] ? form.Key : "", now, RequestState.Waiting);

    private static bool IsThere(string page, Policy policy, DateTimeOffset now) => page switch
    {
        "register" => policy.Settings.Joining.IsPublic,
        "letter-sign-in" => policy.Settings.Letters.SignIn,
        "unlock" => policy.Gates.Any(g => !g.IsExemption && g.Audience.AsksForPassword && g.IsInForce(now)),
        "terms" => TermsBook.Of(policy).All.Any(t => t.InForce(now) is not null),
        // Without pages that are written here there is nothing to search.
        "search" => policy.Graph.Items.Any(i => i.Id.Kind == ItemKind.Section && policy.Parts.All.Any(p => p.Holding(i.Id) is not null)),
        "directory" => MemberDirectory.Of(policy).Audience?.Admits(VisitorOf(Made(policy, now)), "", now) == true,
        _ => true,
    };

    /// <summary>Somebody who has the site's first plan, role and group: the page of somebody who has nothing would show the owner little.</summary>
    private static Member Made(Policy policy, DateTimeOffset now)
    {
        var first = policy.Definitions.Where(d => d.Kind is FactKind.Plan or FactKind.Role or FactKind.Group).GroupBy(d => d.Kind).Select(g => g.First());
        return new Member(
            Guid.Empty, SamplePerson.Email, SamplePerson.Name, null, null, MemberStatus.Active,
            [.. first.Select(d => new Grant(d.Kind, d.Key, now, d.Kind == FactKind.Plan ? now.AddMonths(5) : null))], now);
    }

    private static Visitor VisitorOf(Member sample) => new()
    {
        IsSignedIn = true, Email = sample.Email, Name = sample.Name, NameInAddresses = "sample", Grants = sample.Grants, IsViewpoint = true,
    };

    /// <summary>The same for half an hour, so that a page that is looked at does not load anew whenever the console asks where it is.</summary>
    private string Ticket(DateTimeOffset now)
    {
        Span<byte> bytes = stackalloc byte[16];
        bytes.Clear();
        BinaryPrimitives.WriteInt64BigEndian(bytes, (now.UtcTicks / Step.Ticks) + 2);
        return secrets.TicketOf(new Guid(bytes, true), TicketPurpose);
    }

    private bool IsGood(string ticket)
    {
        Span<byte> bytes = stackalloc byte[16];
        return secrets.TryReadTicket(ticket, TicketPurpose, out var id) && id.TryWriteBytes(bytes, true, out _)
            && BinaryPrimitives.ReadInt64BigEndian(bytes) > time.GetUtcNow().UtcTicks / Step.Ticks;
    }
}
