namespace WarySentinel.Client;

/// <summary>A fact given to a member.</summary>
public sealed record Grant(Guid Id, string Fact, string Kind, string Key, DateTimeOffset? From, DateTimeOffset? Until, string Source, bool InForce);

/// <summary>What became of a grant; not changed where the same source had given it before.</summary>
public sealed record Granted(Grant Grant, bool Changed, int Version);

/// <summary>A member.</summary>
public sealed record Member(
    Guid Id, string Email, string Name, string? UserName, string Status, IReadOnlyList<string> Roles, IReadOnlyList<Grant> Grants, DateTimeOffset CreatedAt,
    int Version);

/// <summary>An access token; its text is told once.</summary>
public sealed record Token(Guid Id, string Label, IReadOnlyList<string> Scopes, DateTimeOffset CreatedAt, DateTimeOffset? Until)
{
    /// <summary>The token itself, under the API's name.</summary>
    [System.Text.Json.Serialization.JsonPropertyName("token")]
    public string? Text { get; init; }
}

/// <summary>A session.</summary>
public sealed record Session(Guid Id, string Purpose, string? Member, DateTimeOffset CreatedAt, DateTimeOffset Until, string? Network, string? Agent,
    IReadOnlyList<string> Unlocked);

/// <summary>Members, sessions, tokens.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Adds a member.</summary>
    public async Task<Member> AddMemberAsync(
        string email, string name, string? userName, string? password, IReadOnlyList<string> roles, IReadOnlyList<string> groups,
        IReadOnlyList<string> plans, CancellationToken stop) =>
        (await SendAsync<Member>(HttpMethod.Post, "members", new { email, name, userName, password, roles, groups, plans }, null, stop)).Value;

    /// <summary>One member and the entity tag.</summary>
    public Task<(Member Value, string? Tag)> MemberAsync(string idOrEmail, CancellationToken stop) =>
        GetAsync<Member>("members/" + Uri.EscapeDataString(idOrEmail), stop);

    /// <summary>Gives a member exactly these roles.</summary>
    public async Task<Member> SetRolesAsync(string idOrEmail, IReadOnlyList<string> roles, string tag, CancellationToken stop) =>
        (await SendAsync<Member>(HttpMethod.Put, $"members/{Uri.EscapeDataString(idOrEmail)}/roles", new { roles }, tag, stop)).Value;

    /// <summary>Says where an account stands: <c>active</c>, <c>suspended</c>, <c>closed</c>.</summary>
    public async Task<Member> SetStatusAsync(string idOrEmail, string status, CancellationToken stop) =>
        (await SendAsync<Member>(HttpMethod.Put, $"members/{Uri.EscapeDataString(idOrEmail)}/status", new { status }, null, stop)).Value;

    /// <summary>Gives a member a fact, such as <c>role:dealer</c>; dates as people write them, a source such as <c>order:4711</c>.</summary>
    public async Task<Granted> GiveAsync(string idOrEmail, string fact, string? from, string? until, string? source, CancellationToken stop) =>
        (await SendAsync<Granted>(HttpMethod.Post, $"members/{Uri.EscapeDataString(idOrEmail)}/grants", new { fact, from, until, source }, null, stop)).Value;

    /// <summary>Gives a grant other dates; what is null is open.</summary>
    public async Task<Granted> SetGrantAsync(string idOrEmail, Guid grant, string? from, string? until, CancellationToken stop) =>
        (await SendAsync<Granted>(HttpMethod.Put, $"members/{Uri.EscapeDataString(idOrEmail)}/grants/{grant}", new { from, until }, null, stop)).Value;

    /// <summary>Ends a grant now.</summary>
    public async Task<Granted> EndGrantAsync(string idOrEmail, Guid grant, CancellationToken stop) =>
        (await SendAsync<Granted>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(idOrEmail)}/grants/{grant}", null, null, stop)).Value;

    /// <summary>Sessions not yet over.</summary>
    public async Task<IReadOnlyList<Session>> SessionsAsync(string? member, CancellationToken stop) =>
        (await GetAsync<PageOf<Session>>("sessions" + (member is null ? "" : "?member=" + Uri.EscapeDataString(member)), stop)).Value.Items;

    /// <summary>Ends a session.</summary>
    public Task EndSessionAsync(Guid id, CancellationToken stop) => SendAsync<object>(HttpMethod.Delete, $"sessions/{id}", null, null, stop);

    /// <summary>Makes an access token; with a name and password where no token is at hand.</summary>
    public async Task<Token> AddTokenAsync(string label, IReadOnlyList<string> scopes, int? days, string? name, string? password, CancellationToken stop) =>
        (await SendAsync<Token>(HttpMethod.Post, "tokens", new { label, scopes, days, signIn = name is null ? null : new { name, password } }, null,
            stop)).Value;

    /// <summary>All access tokens.</summary>
    public async Task<IReadOnlyList<Token>> TokensAsync(CancellationToken stop) => (await GetAsync<PageOf<Token>>("tokens", stop)).Value.Items;

    /// <summary>Removes an access token.</summary>
    public Task RemoveTokenAsync(Guid id, CancellationToken stop) => SendAsync<object>(HttpMethod.Delete, $"tokens/{id}", null, null, stop);

    /// <summary>Makes the first owner of a new service, with the code from its log.</summary>
    public Task FirstOwnerAsync(string code, string email, string name, string password, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Post, "first-owner", new { code, email, name, password }, null, stop);
}
