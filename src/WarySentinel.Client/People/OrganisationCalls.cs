using WarySentinel.Contract.People;

namespace WarySentinel.Client;

/// <summary>Organisations: several people who sign in, under one customer.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The address of a list of organisations.</summary>
    public static string OrganisationsPath(string? search) =>
        "organisations" + (string.IsNullOrWhiteSpace(search) ? "" : "?search=" + Uri.EscapeDataString(search));

    /// <summary>One organisation with its people, and the entity tag.</summary>
    public Task<(OrganisationView Value, string? Tag)> OrganisationAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<OrganisationView>(Path(key), cancellationToken);

    /// <summary>Adds an organisation.</summary>
    public async Task<OrganisationView> AddOrganisationAsync(OrganisationDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationView>(HttpMethod.Post, "organisations", draft, null, cancellationToken)).Value;

    /// <summary>Changes an organisation: all that is sent, in place of what was.</summary>
    public async Task<OrganisationView> SetOrganisationAsync(string key, OrganisationDraft draft, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationView>(HttpMethod.Put, Path(key), draft, tag, cancellationToken)).Value;

    /// <summary>Ends an organisation now.</summary>
    public async Task<OrganisationView> EndOrganisationAsync(string key, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationView>(HttpMethod.Post, Path(key) + "/end", null, null, cancellationToken)).Value;

    /// <summary>Removes an organisation.</summary>
    public Task RemoveOrganisationAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Path(key), null, null, cancellationToken);

    /// <summary>A member belongs to it from now on, as a manager or not.</summary>
    public async Task<OrganisationView> JoinOrganisationAsync(string key, string member, bool manages, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationView>(
            HttpMethod.Put, $"{Path(key)}/people/{Uri.EscapeDataString(member)}", new OrganisationPersonDraft(manages), null, cancellationToken)).Value;

    /// <summary>A member belongs to it no longer.</summary>
    public async Task<OrganisationView> LeaveOrganisationAsync(string key, string member, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationView>(HttpMethod.Delete, $"{Path(key)}/people/{Uri.EscapeDataString(member)}", null, null, cancellationToken)).Value;

    /// <summary>Asks somebody to join.</summary>
    public async Task<OrganisationInvitationView> InviteAsync(string key, string email, bool manages, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationInvitationView>(
            HttpMethod.Post, Path(key) + "/invitations", new OrganisationInvitationDraft(email, manages), null, cancellationToken)).Value;

    /// <summary>Writes again to somebody who was asked.</summary>
    public async Task<OrganisationInvitationView> RemindAsync(string key, Guid invitation, CancellationToken cancellationToken) =>
        (await SendAsync<OrganisationInvitationView>(HttpMethod.Post, $"{Path(key)}/invitations/{invitation}/letter", null, null, cancellationToken)).Value;

    /// <summary>Takes an invitation back.</summary>
    public Task WithdrawAsync(string key, Guid invitation, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"{Path(key)}/invitations/{invitation}", null, null, cancellationToken);

    /// <summary>The organisations that a member belongs to.</summary>
    public async Task<IReadOnlyList<MembershipView>> OrganisationsOfAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<IReadOnlyList<MembershipView>>($"members/{Uri.EscapeDataString(member)}/organisations", cancellationToken)).Value;

    private static string Path(string key) => "organisations/" + Uri.EscapeDataString(key);
}
