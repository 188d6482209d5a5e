namespace WarySentinel.Client;

/// <summary>A stretch of a gate's sentence; <paramref name="Edits"/> names the field that it says.</summary>
public sealed record SentencePart(string? Edits, string Text);

/// <summary>The owner's words on a password prompt.</summary>
public sealed record PromptWords(string? Heading, string? Text, string? Label, string? Placeholder, string? Button);

/// <summary>A link and its words.</summary>
public sealed record SiteLink(string Address, string Words);

/// <summary>How shared passwords are changed by themselves; durations in ISO 8601.</summary>
public sealed record Rotation(string? Every, string? Overlap, IReadOnlyList<string>? Tell);

/// <summary>A gate, as it is read.</summary>
public sealed record Gate(
    string Key, string Title, string Kind, IReadOnlyList<string> Covers, string Reach, string? Audience, IReadOnlyList<string> Acts, string Presence,
    string Answer,
    string? Message, string? RedirectTo, DateTimeOffset? From, DateTimeOffset? Until, bool Enabled, bool InForce, string UnlockFor,
    PromptWords? Prompt, SiteLink? Link, Rotation? Rotation, int Version, string Sentence, IReadOnlyList<SentencePart> Parts, string? Unreadable,
    bool StandsIn);

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

    /// <summary>Start: a moment, or a day in the site's time zone.</summary>
    public string? From { get; init; }

    /// <summary>End: a moment, or the last day that counts.</summary>
    public string? Until { get; init; }

    /// <summary>Whether it counts.</summary>
    public bool? Enabled { get; init; }

    /// <summary>How long a shared password opens it (ISO 8601, or <c>session</c>).</summary>
    public string? UnlockFor { get; init; }

    /// <summary>The owner's words on its password prompt.</summary>
    public PromptWords? Prompt { get; init; }

    /// <summary>Where the refused learn how to get in.</summary>
    public SiteLink? Link { get; init; }

    /// <summary>How its shared passwords are changed by themselves.</summary>
    public Rotation? Rotation { get; init; }

    /// <summary>A draft that says what a gate says.</summary>
    public static GateDraft Of(Gate gate) => new()
    {
        Title = gate.Title, Covers = gate.Covers, Reach = gate.Reach, Kind = gate.Kind, Audience = gate.Audience, Acts = gate.Acts, Presence = gate.Presence,
        Answer = gate.Answer, Message = gate.Message, RedirectTo = gate.RedirectTo, From = gate.From?.ToString("O"), Until = gate.Until?.ToString("O"),
        Enabled = gate.Enabled, UnlockFor = gate.UnlockFor, Prompt = gate.Prompt, Link = gate.Link, Rotation = gate.Rotation,
    };
}

/// <summary>An item's name and title.</summary>
public sealed record ItemName(string Id, string Title);

/// <summary>A line of an effect.</summary>
public sealed record EffectRow(
    string Item, string Title, int AlsoBeneath, IReadOnlyList<string> ForWhom, string Before, string After, IReadOnlyList<string> Gained,
    IReadOnlyList<string> Lost);

/// <summary>What a change would do.</summary>
public sealed record Effect(
    int ItemsClosing, int ItemsOpening, int MembersLosing, int MembersGaining, int MembersKeeping, IReadOnlyList<string> LosingNames,
    IReadOnlyList<string> GainingNames,
    IReadOnlyList<ItemName> Elsewhere, IReadOnlyList<EffectRow> Rows, int MoreRows, string Sentence);

/// <summary>A shared password; itself it is told once, where it was generated.</summary>
public sealed record SharedPassword(
    Guid Id, string Gate, string Label, DateTimeOffset CreatedAt, DateTimeOffset? From, DateTimeOffset? Until, DateTimeOffset? WithdrawnAt, bool InForce,
    int Uses, int? MostUses,
    DateTimeOffset? LastUsedAt, int Networks, string Asked, Guid? Replaces, string? Password, string? Text);

/// <summary>A shared password to be added; without a password a strong one is generated.</summary>
public sealed record SharedPasswordDraft(
    string Gate, string Label, string? Password = null, string? From = null, string? Until = null, int? MostUses = null, string? Asked = null);

/// <summary>One field that a change made other.</summary>
public sealed record FieldChange(string Field, string? Before, string? After);

/// <summary>An entry of the change history.</summary>
public sealed record History(long Id, DateTimeOffset At, string By, string Action, string Subject, string? Before, string? After,
    IReadOnlyList<FieldChange> Changes);

/// <summary>Something wrong that a sweep found.</summary>
public sealed record SweepFinding(string Kind, bool IsLeak, string Address, string? Item, string As, string Via, string? Gate, string What, string Mend);

/// <summary>What a sweep found.</summary>
public sealed record SweepReport(
    Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, string Site, string? Origin, string? Cache, IReadOnlyList<string> As,
    int Addresses, int Guarded, int Requests, int LeftOut, int Leaks, int Closed, int Missing, IReadOnlyList<SweepFinding> Findings);

/// <summary>How far a sweep is.</summary>
public sealed record SweepLine(string Stage, int Done, int Total, int Leaks, SweepReport? Report, string? Detail);

/// <summary>What a sweep is to do.</summary>
public sealed record SweepDraft(IReadOnlyList<string>? As, string? Site, string? Origin, string? Cache, int? Most);

/// <summary>A question: may this visitor do this act on this item or path?</summary>
public sealed record Question(string? Visitor, string? Act, string? Item, string? Path, string? At);

/// <summary>A line of the answer to many questions.</summary>
public sealed record BulkAnswer(
    int Line, string? Visitor, string? Act, string? What, string? At, bool? Allowed, string? Answer, string? Gate, string? Code, string? Detail);

/// <summary>The outcome of a question.</summary>
public sealed record Decision(bool Allowed, IReadOnlyList<string> Items, string? Answer, string? Gate);

/// <summary>One step of an explanation.</summary>
public sealed record ExplanationStep(string? Gate, string Title, string Way, string? Sentence, string Verdict, bool? Admitted);

/// <summary>The outcome of a question, told as a person would.</summary>
public sealed record Why(
    bool Allowed, string Who, string What, string Act, string Headline, IReadOnlyList<ExplanationStep> Steps, IReadOnlyList<string> Opens, string Meets,
    string? Answer, string? Gate);

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
    public Task RemoveGateAsync(string key, string tag, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, "gates/" + Uri.EscapeDataString(key), null, tag, stop);

    /// <summary>What a change of a gate would do; no draft removes it, no key adds one.</summary>
    public async Task<Effect> PreviewAsync(string? key, GateDraft? draft, CancellationToken stop) =>
        (await SendAsync<Effect>(HttpMethod.Post, "gates/preview", new { key, draft }, null, stop)).Value;

    /// <summary>Takes a gate's last change back.</summary>
    public async Task<Gate?> UndoGateAsync(string key, CancellationToken stop) =>
        (await SendAsync<Gate?>(HttpMethod.Post, $"gates/{Uri.EscapeDataString(key)}/undo", null, null, stop)).Value;

    /// <summary>The change history, newest first.</summary>
    public async Task<IReadOnlyList<History>> HistoryAsync(string? subject, int most, CancellationToken stop) =>
        (await GetAsync<PageOf<History>>($"history?limit={most}{(subject is null ? "" : "&subject=" + Uri.EscapeDataString(subject))}", stop)).Value.Items;

    /// <summary>Runs a sweep, line by line how far it is.</summary>
    public IAsyncEnumerable<SweepLine> SweepAsync(SweepDraft draft, CancellationToken stop) =>
        LinesAsync<SweepLine>("sweeps", System.Net.Http.Json.JsonContent.Create(draft, options: Json), stop);

    /// <summary>The report of the newest sweep.</summary>
    public async Task<SweepReport> LatestSweepAsync(CancellationToken stop) => (await GetAsync<SweepReport>("sweeps/latest", stop)).Value;

    /// <summary>Adds a shared password to a gate.</summary>
    public async Task<SharedPassword> AddPasswordAsync(SharedPasswordDraft draft, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, "passwords", draft, null, stop)).Value;

    /// <summary>Puts a generated password in the place of another.</summary>
    public async Task<SharedPassword> RotateAsync(Guid id, string? overlap, IReadOnlyList<string> tell, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, $"passwords/{id}/rotate", new { overlap, tell }, null, stop)).Value;

    /// <summary>The shared passwords of a gate, or of all.</summary>
    public async Task<IReadOnlyList<SharedPassword>> PasswordsAsync(string? gate, CancellationToken stop) =>
        (await GetAsync<PageOf<SharedPassword>>("passwords" + (gate is null ? "" : "?gate=" + Uri.EscapeDataString(gate)), stop)).Value.Items;

    /// <summary>Withdraws a shared password.</summary>
    public async Task<SharedPassword> WithdrawAsync(Guid id, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, $"passwords/{id}/withdraw", null, null, stop)).Value;

    /// <summary>Asks a question.</summary>
    public async Task<Decision> MayAsync(Question question, CancellationToken stop) =>
        (await SendAsync<Decision>(HttpMethod.Post, "decisions/may", question, null, stop)).Value;

    /// <summary>Asks many questions, of a file in CSV or of JSON lines; an answer for each, in order.</summary>
    public IAsyncEnumerable<BulkAnswer> MayAsync(Stream file, bool csv, CancellationToken stop) =>
        LinesAsync<BulkAnswer>("decisions/bulk", Content(file, csv ? "text/csv" : "application/x-ndjson"), stop);

    /// <summary>Asks a question and why.</summary>
    public async Task<Why> WhyAsync(Question question, CancellationToken stop) =>
        (await SendAsync<Why>(HttpMethod.Post, "decisions/why", question, null, stop)).Value;

    /// <summary>The catalogue through a viewpoint.</summary>
    public async Task<Seen> SeenAsync(string viewpoint, string? at, string? cursor, CancellationToken stop) =>
        (await GetAsync<Seen>($"seen?limit=1000&as={Uri.EscapeDataString(viewpoint)}{(at is null ? "" : "&at=" + Uri.EscapeDataString(at))}{(cursor is null ? "" : "&cursor=" + cursor)}", stop)).Value;

    /// <summary>An address at which the live site is seen through a viewpoint, good for one use within two minutes.</summary>
    public async Task<OpenedView> OpenViewAsync(string viewpoint, string? path, string? at, CancellationToken stop) =>
        (await SendAsync<OpenedView>(HttpMethod.Post, "viewpoints/open",
            new Dictionary<string, object?> { ["as"] = viewpoint, ["path"] = path, ["at"] = at }, null, stop)).Value;
}
