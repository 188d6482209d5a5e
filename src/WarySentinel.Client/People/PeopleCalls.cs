using WarySentinel.Contract;
using WarySentinel.Contract.People;

namespace WarySentinel.Client;

/// <summary>Members, sessions, tokens.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The address of a list of members.</summary>
    public static string MembersPath(MemberFilter filter)
    {
        (string Name, string? Value)[] asked =
        [
            ("search", filter.Search), ("status", filter.Status), ("holds", filter.Holds), ("joinedFrom", filter.JoinedFrom),
            ("joinedUntil", filter.JoinedUntil), ("seenFrom", filter.SeenFrom), ("seenUntil", filter.SeenUntil),
            ("never", filter.Never == true ? "true" : null), ("sort", filter.Sort),
            .. (filter.Answer ?? []).Select(a => ("answer", (string?)a)),
        ];
        var query = string.Join('&', asked.Where(a => a.Value is not null).Select(a => $"{a.Name}={Uri.EscapeDataString(a.Value!)}"));
        return "members" + (query.Length > 0 ? "?" + query : "");
    }

    /// <summary>Brings members in from a file, line by line how far it is.</summary>
    public IAsyncEnumerable<MemberImportLine> ImportMembersAsync(
        Stream file, bool dryRun, IReadOnlyList<string> map, string? source, string? domain, MemberImportLetter? letter,
        CancellationToken cancellationToken)
    {
        var query = string.Concat(map.Select(m => "&map=" + Uri.EscapeDataString(m))) + (source is null ? "" : "&source=" + Uri.EscapeDataString(source))
            + (domain is null ? "" : "&domain=" + Uri.EscapeDataString(domain));
        return LinesAsync<MemberImportLine>($"members/import?dryRun={(dryRun ? "true" : "false")}{query}", letter is null
            ? Content(file, "text/csv") : new MultipartFormDataContent
            { { System.Net.Http.Json.JsonContent.Create(letter, options: ApiJson.Options), "letter" }, { Content(file, "text/csv"), "file", "members.csv" } },
            cancellationToken);
    }

    /// <summary>Writes members to a CSV file.</summary>
    public async Task ExportMembersAsync(MemberFilter filter, Stream to, CancellationToken cancellationToken)
    {
        using var response = await http.GetAsync(
            "members.csv" + MembersPath(filter)["members".Length..], HttpCompletionOption.ResponseHeadersRead, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        await response.Content.CopyToAsync(to, cancellationToken);
    }

    /// <summary>Tells of people as another program has them, a thousand at most.</summary>
    public async Task<SyncView> SyncAsync(string source, SyncDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<SyncView>(HttpMethod.Post, "sync/" + Uri.EscapeDataString(source), draft, null, cancellationToken)).Value;

    /// <summary>The names by which other programs know a member.</summary>
    public async Task<IReadOnlyList<OutsideKeyView>> OutsideKeysAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<IReadOnlyList<OutsideKeyView>>($"members/{Uri.EscapeDataString(member)}/outside-keys", cancellationToken)).Value;

    /// <summary>Does something with many members, and tells line by line how far it is.</summary>
    public IAsyncEnumerable<MembersChangeLine> BulkAsync(BulkDraft draft, CancellationToken cancellationToken) =>
        LinesAsync<MembersChangeLine>("members/bulk", System.Net.Http.Json.JsonContent.Create(draft, options: ApiJson.Options), cancellationToken);

    /// <summary>Adds a member.</summary>
    public async Task<MemberView> AddMemberAsync(
        string email, string name, string? userName, string? password, IReadOnlyList<string> roles, IReadOnlyList<string> groups,
        IReadOnlyList<string> plans, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(HttpMethod.Post, "members", new MemberDraft(email, name, userName, password, roles, groups, plans), null,
            cancellationToken)).Value;

    /// <summary>One member and the entity tag.</summary>
    public Task<(MemberView Value, string? Tag)> MemberAsync(string idOrEmail, CancellationToken cancellationToken) =>
        GetAsync<MemberView>("members/" + Uri.EscapeDataString(idOrEmail), cancellationToken);

    /// <summary>Gives a member exactly these roles.</summary>
    public async Task<MemberView> SetRolesAsync(string idOrEmail, IReadOnlyList<string> roles, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(HttpMethod.Put, $"members/{Uri.EscapeDataString(idOrEmail)}/roles", new RolesDraft(roles), tag, cancellationToken)).Value;

    /// <summary>Says where an account stands: <c>active</c>, <c>suspended</c>, <c>closed</c>; with words that the member reads when they sign in.</summary>
    public async Task<MemberView> SetStatusAsync(string idOrEmail, string status, string? words, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(HttpMethod.Put, $"members/{Uri.EscapeDataString(idOrEmail)}/status", new StatusDraft(status, words), null,
            cancellationToken)).Value;

    /// <summary>Erases a member; that there was somebody stays.</summary>
    /// <param name="idOrEmail">Who.</param>
    /// <param name="tell">Whether a last letter says so to them.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task EraseMemberAsync(string idOrEmail, bool tell, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(idOrEmail)}?tell={(tell ? "true" : "false")}", null, null, cancellationToken);

    /// <summary>All that is known of a member, for them to have.</summary>
    public async Task<MemberDataView> MemberDataAsync(string idOrEmail, CancellationToken cancellationToken) =>
        (await GetAsync<MemberDataView>($"members/{Uri.EscapeDataString(idOrEmail)}/data", cancellationToken)).Value;

    /// <summary>Signs a member out everywhere; gives how many sessions that ended.</summary>
    public async Task<int> EndSessionsAsync(string idOrEmail, CancellationToken cancellationToken) =>
        (await SendAsync<EndedView>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(idOrEmail)}/sessions", null, null, cancellationToken)).Value.Ended;

    /// <summary>What staff noted of a member, newest first.</summary>
    public async Task<IReadOnlyList<NoteView>> NotesAsync(string idOrEmail, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<NoteView>>($"members/{Uri.EscapeDataString(idOrEmail)}/notes", cancellationToken)).Value.Items;

    /// <summary>Notes something of a member, for staff to read.</summary>
    public async Task<NoteView> AddNoteAsync(string idOrEmail, string text, CancellationToken cancellationToken) =>
        (await SendAsync<NoteView>(HttpMethod.Post, $"members/{Uri.EscapeDataString(idOrEmail)}/notes", new NoteDraft(text), null, cancellationToken)).Value;

    /// <summary>Drops a note.</summary>
    public Task DropNoteAsync(string idOrEmail, Guid note, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(idOrEmail)}/notes/{note}", null, null, cancellationToken);

    /// <summary>Gives a member a fact, such as <c>role:dealer</c>; dates as people write them, a source such as <c>order:4711</c>.</summary>
    public async Task<GrantedView> GiveAsync(string idOrEmail, string fact, string? from, string? until, string? source, CancellationToken cancellationToken) =>
        (await SendAsync<GrantedView>(HttpMethod.Post, $"members/{Uri.EscapeDataString(idOrEmail)}/grants",
            new GrantDraft(fact, from, until, source), null, cancellationToken)).Value;

    /// <summary>Gives a grant other dates; what is null is open.</summary>
    public async Task<GrantedView> SetGrantAsync(string idOrEmail, Guid grant, string? from, string? until, CancellationToken cancellationToken) =>
        (await SendAsync<GrantedView>(HttpMethod.Put, $"members/{Uri.EscapeDataString(idOrEmail)}/grants/{grant}",
            new GrantDatesDraft(from, until), null, cancellationToken)).Value;

    /// <summary>Ends a grant now.</summary>
    public async Task<GrantedView> EndGrantAsync(string idOrEmail, Guid grant, CancellationToken cancellationToken) =>
        (await SendAsync<GrantedView>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(idOrEmail)}/grants/{grant}", null, null, cancellationToken)).Value;

    /// <summary>Sessions not yet over.</summary>
    public async Task<IReadOnlyList<SessionView>> SessionsAsync(string? member, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<SessionView>>("sessions" + (member is null ? "" : "?member=" + Uri.EscapeDataString(member)), cancellationToken)).Value.Items;

    /// <summary>Ends a session.</summary>
    public Task EndSessionAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"sessions/{id}", null, null, cancellationToken);

    /// <summary>Makes an access token; with a name and password where no token is at hand.</summary>
    public async Task<TokenView> AddTokenAsync(
        string label, IReadOnlyList<string> scopes, int? days, string? name, string? password, CancellationToken cancellationToken) =>
        (await SendAsync<TokenView>(HttpMethod.Post, "tokens",
            new TokenDraft(label, scopes, days, name is null ? null : new Credentials(name, password)), null, cancellationToken)).Value;

    /// <summary>All access tokens.</summary>
    public async Task<IReadOnlyList<TokenView>> TokensAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<TokenView>>("tokens", cancellationToken)).Value.Items;

    /// <summary>Removes an access token.</summary>
    public Task RemoveTokenAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"tokens/{id}", null, null, cancellationToken);

    /// <summary>Makes the first owner of a new service, with the code from its log.</summary>
    public Task FirstOwnerAsync(string code, string email, string name, string password, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Post, "first-owner", new FirstOwnerDraft(code, email, name, password), null, cancellationToken);
}
