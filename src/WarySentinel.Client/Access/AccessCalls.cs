namespace WarySentinel.Client;

/// <summary>A stretch of a gate's sentence; <paramref name="Edits"/> names the field that it says.</summary>
public sealed record SentencePart(string? Edits, string Text);

/// <summary>A gate, as it is read.</summary>
public sealed record Gate(
    string Key, string Title, string Kind, IReadOnlyList<string> Covers, string Reach, string? Audience, IReadOnlyList<string> Acts, string Presence, string Answer,
    string? Message, string? RedirectTo, DateTimeOffset? From, DateTimeOffset? Until, bool Enabled, bool InForce, string UnlockFor, int Version, string Sentence, IReadOnlyList<SentencePart> Parts);

/// <summary>A gate, as it is written.</summary>
public sealed record GateDraft
{
    /// <summary>Its name; made from the title where empty.</summary>
    public string? Key { get; init; }

    /// <summary>What the owner calls it.</summary>
    public string? Title { get; init; }

    /// <summary>What it covers.</summary>
    public IReadOnlyList<string>? Covers { get; init; }

    /// <summary><c>branch</c> or <c>item</c>.</summary>
    public string? Reach { get; init; }

    /// <summary><c>requirement</c> or <c>exemption</c>.</summary>
    public string? Kind { get; init; }

    /// <summary>Whom it admits.</summary>
    public string? Audience { get; init; }

    /// <summary>What it guards.</summary>
    public IReadOnlyList<string>? Acts { get; init; }

    /// <summary><c>listed</c> or <c>hidden</c>.</summary>
    public string? Presence { get; init; }

    /// <summary>What the refused get.</summary>
    public string? Answer { get; init; }

    /// <summary>The owner's words.</summary>
    public string? Message { get; init; }

    /// <summary>Where the refused are sent.</summary>
    public string? RedirectTo { get; init; }

    /// <summary>Start.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>End.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>Whether it counts.</summary>
    public bool? Enabled { get; init; }

    /// <summary>How long a shared password opens it (ISO 8601).</summary>
    public string? UnlockFor { get; init; }

    /// <summary>A draft that says what a gate says.</summary>
    public static GateDraft Of(Gate gate) => new()
    {
        Title = gate.Title, Covers = gate.Covers, Reach = gate.Reach, Kind = gate.Kind, Audience = gate.Audience, Acts = gate.Acts, Presence = gate.Presence,
        Answer = gate.Answer, Message = gate.Message, RedirectTo = gate.RedirectTo, From = gate.From, Until = gate.Until, Enabled = gate.Enabled, UnlockFor = gate.UnlockFor,
    };
}

/// <summary>An item's name and title.</summary>
public sealed record ItemName(string Id, string Title);

/// <summary>A line of an effect.</summary>
public sealed record EffectRow(
    string Item, string Title, int AlsoBeneath, IReadOnlyList<string> ForWhom, string Before, string After, IReadOnlyList<string> Gained, IReadOnlyList<string> Lost);

/// <summary>What a change would do.</summary>
public sealed record Effect(
    int ItemsClosing, int ItemsOpening, int MembersLosing, int MembersGaining, int MembersKeeping, IReadOnlyList<ItemName> Elsewhere, IReadOnlyList<EffectRow> Rows, int MoreRows, string Sentence);

/// <summary>A shared password; itself it is never told.</summary>
public sealed record SharedPassword(
    Guid Id, string Gate, string Label, DateTimeOffset CreatedAt, DateTimeOffset? From, DateTimeOffset? Until, DateTimeOffset? WithdrawnAt, bool InForce, int Uses, DateTimeOffset? LastUsedAt);

/// <summary>A question: may this visitor do this act on this item or path?</summary>
public sealed record Question(string? Visitor, string? Act, string? Item, string? Path, DateTimeOffset? At);

/// <summary>The outcome of a question.</summary>
public sealed record Decision(bool Allowed, IReadOnlyList<string> Items, string? Answer, string? Gate);

/// <summary>One step of an explanation.</summary>
public sealed record ExplanationStep(string? Gate, string Title, string Way, string? Sentence, string Verdict, bool? Admitted);

/// <summary>The outcome of a question, told as a person would.</summary>
public sealed record Why(
    bool Allowed, string Who, string What, string Act, string Headline, IReadOnlyList<ExplanationStep> Steps, IReadOnlyList<string> Opens, string Meets, string? Answer, string? Gate);

/// <summary>An item as a viewpoint sees it.</summary>
public sealed record SeenItem(string Item, string Title, string Kind, string Sight, IReadOnlyList<string> Parents, string? Address);

/// <summary>The catalogue as a viewpoint sees it.</summary>
public sealed record Seen(string Who, int Open, int Listed, int Hidden, IReadOnlyList<SeenItem> Items, string? Next);

/// <summary>The address at which the live site is seen through a viewpoint.</summary>
public sealed record OpenedView(string Url);

/// <summary>Gates, shared passwords, decisions.</summary>
public sealed partial class SentinelClient
{
    /// <summary>One gate and its entity tag.</summary>
    public Task<(Gate Value, string? Tag)> GateAsync(string key, CancellationToken stop) => GetAsync<Gate>("gates/" + Uri.EscapeDataString(key), stop);

    /// <summary>Adds a gate.</summary>
    public async Task<Gate> AddGateAsync(GateDraft draft, CancellationToken stop) => (await SendAsync<Gate>(HttpMethod.Post, "gates", draft, null, stop)).Value;

    /// <summary>Changes a gate.</summary>
    public async Task<Gate> SetGateAsync(string key, GateDraft draft, string tag, CancellationToken stop) =>
        (await SendAsync<Gate>(HttpMethod.Put, "gates/" + Uri.EscapeDataString(key), draft, tag, stop)).Value;

    /// <summary>Removes a gate.</summary>
    public Task RemoveGateAsync(string key, string tag, CancellationToken stop) => SendAsync<object>(HttpMethod.Delete, "gates/" + Uri.EscapeDataString(key), null, tag, stop);

    /// <summary>What a change of a gate would do; no draft removes it, no key adds one.</summary>
    public async Task<Effect> PreviewAsync(string? key, GateDraft? draft, CancellationToken stop) =>
        (await SendAsync<Effect>(HttpMethod.Post, "gates/preview", new { key, draft }, null, stop)).Value;

    /// <summary>Adds a shared password to a gate.</summary>
    public async Task<SharedPassword> AddPasswordAsync(string gate, string label, string password, DateTimeOffset? from, DateTimeOffset? until, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, "passwords", new { gate, label, password, from, until }, null, stop)).Value;

    /// <summary>The shared passwords of a gate, or of all.</summary>
    public async Task<IReadOnlyList<SharedPassword>> PasswordsAsync(string? gate, CancellationToken stop) =>
        (await GetAsync<PageOf<SharedPassword>>("passwords" + (gate is null ? "" : "?gate=" + Uri.EscapeDataString(gate)), stop)).Value.Items;

    /// <summary>Withdraws a shared password.</summary>
    public async Task<SharedPassword> WithdrawAsync(Guid id, CancellationToken stop) => (await SendAsync<SharedPassword>(HttpMethod.Post, $"passwords/{id}/withdraw", null, null, stop)).Value;

    /// <summary>Asks a question.</summary>
    public async Task<Decision> MayAsync(Question question, CancellationToken stop) => (await SendAsync<Decision>(HttpMethod.Post, "decisions/may", question, null, stop)).Value;

    /// <summary>Asks a question and why.</summary>
    public async Task<Why> WhyAsync(Question question, CancellationToken stop) => (await SendAsync<Why>(HttpMethod.Post, "decisions/why", question, null, stop)).Value;

    /// <summary>The catalogue through a viewpoint.</summary>
    public async Task<Seen> SeenAsync(string viewpoint, DateTimeOffset? at, string? cursor, CancellationToken stop) =>
        (await GetAsync<Seen>($"seen?limit=1000&as={Uri.EscapeDataString(viewpoint)}{(at is null ? "" : "&at=" + Uri.EscapeDataString(at.Value.ToString("O")))}{(cursor is null ? "" : "&cursor=" + cursor)}", stop)).Value;

    /// <summary>An address at which the live site is seen through a viewpoint, good for two minutes.</summary>
    public async Task<OpenedView> OpenViewAsync(string viewpoint, string? path, CancellationToken stop) =>
        (await SendAsync<OpenedView>(HttpMethod.Post, "viewpoints/open", new Dictionary<string, string?> { ["as"] = viewpoint, ["path"] = path }, null, stop)).Value;
}
