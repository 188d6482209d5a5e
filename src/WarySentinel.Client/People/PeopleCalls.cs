namespace WarySentinel.Client;

/// <summary>A fact given to a member.</summary>
public sealed record Grant(Guid Id, string Fact, string Kind, string Key, DateTimeOffset? From, DateTimeOffset? Until, string Source, bool InForce);

/// <summary>What became of a grant; not changed where the same source had given it before.</summary>
public sealed record Granted(Grant Grant, bool Changed, int Version);

/// <summary>A letter on its way, sent or given up; its text is not told.</summary>
public sealed record Letter(
    Guid Id, string To, string Subject, string State, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt, DateTimeOffset? NextTryAt,
    int Tries, string? Fault);

/// <summary>A member.</summary>
public sealed record Member(
    Guid Id, string Email, string Name, string? UserName, string Status, IReadOnlyList<string> Roles, IReadOnlyList<Grant> Grants, DateTimeOffset CreatedAt,
    int Version);

/// <summary>A role, group or plan.</summary>
public sealed record Standing(string Key, string Title, int Members, int Version, bool BuiltIn);

/// <summary>An access token; its text is told once.</summary>
public sealed record Token(Guid Id, string Label, IReadOnlyList<string> Scopes, DateTimeOffset CreatedAt, DateTimeOffset? Until)
{
    /// <summary>The token itself, under the API's name.</summary>
    [System.Text.Json.Serialization.JsonPropertyName("token")]
    public string? Text { get; init; }
}

/// <summary>Where people land.</summary>
public sealed record Redirect(string Key, string On, string Audience, string To, int Position, int Version);

/// <summary>How the service is.</summary>
public sealed record Status(
    string Version, string SiteName, string SiteUrl, string Origin, string Database, long Revision, int Items, int Gates, int GatesInForce, int Members,
    DateTimeOffset StartedAt, int LettersGivenUp,
    IReadOnlyList<StoredFault> Faults);

/// <summary>Something stored that cannot be read; what it covered is closed until it is mended.</summary>
public sealed record StoredFault(string Kind, string Key, string Reason, IReadOnlyList<string> Closed, string Mend);

/// <summary>A session.</summary>
public sealed record Session(Guid Id, string Purpose, string? Member, DateTimeOffset CreatedAt, DateTimeOffset Until, string? Network, string? Agent,
    IReadOnlyList<string> Unlocked);

/// <summary>Members, roles, tokens, the service.</summary>
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

    /// <summary>Letters, newest first; in one state (<c>waiting</c>, <c>sent</c>, <c>given-up</c>) or all.</summary>
    public async Task<IReadOnlyList<Letter>> LettersAsync(string? state, CancellationToken stop) =>
        (await GetAsync<PageOf<Letter>>("letters?limit=200" + (state is null ? "" : "&state=" + Uri.EscapeDataString(state)), stop)).Value.Items;

    /// <summary>Puts a letter on its way again.</summary>
    public Task ResendLetterAsync(Guid id, CancellationToken stop) => SendAsync<object>(HttpMethod.Post, $"letters/{id}/resend", null, null, stop);

    /// <summary>Drops a letter that is not sent.</summary>
    public Task DropLetterAsync(Guid id, CancellationToken stop) => SendAsync<object>(HttpMethod.Delete, $"letters/{id}", null, null, stop);

    /// <summary>Drops what is stored of something that cannot be read; what it closed is open again.</summary>
    public Task MendAsync(string kind, string key, CancellationToken stop) => SendAsync<object>(HttpMethod.Post, "mend", new { kind, key }, null, stop);

    /// <summary>Roles, groups or plans (<c>roles</c>, <c>groups</c>, <c>plans</c>).</summary>
    public async Task<IReadOnlyList<Standing>> StandingsAsync(string kind, CancellationToken stop) =>
        (await GetAsync<PageOf<Standing>>(kind, stop)).Value.Items;

    /// <summary>Adds a role, group or plan.</summary>
    public async Task<Standing> AddStandingAsync(string kind, string? key, string title, CancellationToken stop) =>
        (await SendAsync<Standing>(HttpMethod.Post, kind, new { key, title }, null, stop)).Value;

    /// <summary>Removes a role, group or plan.</summary>
    public Task RemoveStandingAsync(string kind, string key, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, $"{kind}/{Uri.EscapeDataString(key)}", null, null, stop);

    /// <summary>Redirects, in the order in which they are tried.</summary>
    public async Task<IReadOnlyList<Redirect>> RedirectsAsync(CancellationToken stop) => (await GetAsync<PageOf<Redirect>>("redirects", stop)).Value.Items;

    /// <summary>Stores a redirect.</summary>
    public async Task<Redirect> PutRedirectAsync(string key, string on, string audience, string to, int? position, CancellationToken stop) =>
        (await SendAsync<Redirect>(HttpMethod.Put, "redirects/" + Uri.EscapeDataString(key), new { key, on, audience, to, position }, null, stop)).Value;

    /// <summary>Removes a redirect.</summary>
    public Task RemoveRedirectAsync(string key, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, "redirects/" + Uri.EscapeDataString(key), null, null, stop);

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

    /// <summary>Where people land.</summary>
    public sealed record Redirect(string Key, string On, string Audience, string To, int Position, int Version);

    /// <summary>How the service is.</summary>
    public async Task<Status> StatusAsync(CancellationToken stop) => (await GetAsync<Status>("status", stop)).Value;

    /// <summary>Makes the first owner of a new service, with the code from its log.</summary>
    public Task FirstOwnerAsync(string code, string email, string name, string password, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Post, "first-owner", new { code, email, name, password }, null, stop);

    /// <summary>The settings as they are, and their entity tag.</summary>
    public Task<(System.Text.Json.JsonElement Value, string? Tag)> SettingsAsync(CancellationToken stop) =>
        GetAsync<System.Text.Json.JsonElement>("settings", stop);

    /// <summary>Stores settings; what is left out stays.</summary>
    public async Task<System.Text.Json.JsonElement> SetSettingsAsync(System.Text.Json.JsonElement settings, string tag, CancellationToken stop) =>
        (await SendAsync<System.Text.Json.JsonElement>(HttpMethod.Put, "settings", settings, tag, stop)).Value;
}
