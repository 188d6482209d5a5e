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

/// <summary>Gates.</summary>
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
}
