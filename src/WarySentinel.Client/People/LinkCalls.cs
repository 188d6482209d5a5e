using WarySentinel.Contract;
using WarySentinel.Contract.People;

namespace WarySentinel.Client;

/// <summary>Invitations, and links in letters.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Adds people and writes to each.</summary>
    public async Task<IReadOnlyList<InvitedView>> InviteAsync(InvitationsDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<PageOf<InvitedView>>(HttpMethod.Post, "members/invitations", draft, null, cancellationToken)).Value.Items;

    /// <summary>Links and codes that were sent to anybody, the newest first.</summary>
    /// <param name="words">A part of the address that they went to.</param>
    /// <param name="state">How they stand, such as <c>open</c> or <c>used</c>.</param>
    /// <param name="purpose">What they are for, such as <c>invitation</c>.</param>
    /// <param name="most">So many at most.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public IAsyncEnumerable<SentLinkView> SentLinksAsync(string? words, string? state, string? purpose, int most, CancellationToken cancellationToken) =>
        AllAsync<SentLinkView>(
            $"links?q={Uri.EscapeDataString(words ?? "")}&state={Uri.EscapeDataString(state ?? "")}&purpose={Uri.EscapeDataString(purpose ?? "")}", most,
            cancellationToken);

    /// <summary>Takes one link back.</summary>
    public Task WithdrawLinkAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"links/{id}", null, null, cancellationToken);

    /// <summary>The links that a member was sent.</summary>
    public async Task<IReadOnlyList<LinkView>> LinksAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<LinkView>>($"members/{Uri.EscapeDataString(member)}/links", cancellationToken)).Value.Items;

    /// <summary>Sends a member a letter with a link.</summary>
    public async Task<LinkView> SendLinkAsync(string member, LinkDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<LinkView>(HttpMethod.Post, $"members/{Uri.EscapeDataString(member)}/links", draft, null, cancellationToken)).Value;

    /// <summary>Takes back what links a member was sent.</summary>
    public Task WithdrawLinksAsync(string member, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(member)}/links", null, null, cancellationToken);

    /// <summary>Makes up a password for a member; it is told here, and nowhere again.</summary>
    public async Task<GeneratedPasswordView> GeneratePasswordAsync(string member, CancellationToken cancellationToken) =>
        (await SendAsync<GeneratedPasswordView>(HttpMethod.Post, $"members/{Uri.EscapeDataString(member)}/password", null, null, cancellationToken)).Value;

    /// <summary>Says yes to somebody who asked to join.</summary>
    public async Task<MemberView> ApproveAsync(string member, string? words, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(
            HttpMethod.Post, $"members/{Uri.EscapeDataString(member)}/approve", new RequestDecision(words), null, cancellationToken)).Value;

    /// <summary>Says no to somebody who asked to join.</summary>
    public async Task<MemberView> DeclineAsync(string member, string? words, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(
            HttpMethod.Post, $"members/{Uri.EscapeDataString(member)}/decline", new RequestDecision(words), null, cancellationToken)).Value;

    /// <summary>Says how a member wants to be written to; what is left out stays.</summary>
    public async Task<MemberView> SetLettersAsync(string member, LetterWish wish, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(
            HttpMethod.Put, $"members/{Uri.EscapeDataString(member)}/letters", wish, null, cancellationToken)).Value;
}
