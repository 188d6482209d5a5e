using WarySentinel.Contract.Access;

namespace WarySentinel.Contract.Gates;

/// <summary>A stretch of a gate's sentence; <paramref name="Edits"/> names the field that it says.</summary>
public sealed record SentencePart(string? Edits, string Text);

/// <summary>How shared passwords are changed by themselves. Durations in ISO 8601.</summary>
/// <param name="Every">Between two changes.</param>
/// <param name="Overlap">How long the old one works beside the new one.</param>
/// <param name="Tell">E-mail addresses that are sent the new one.</param>
public sealed record RotationDraft(string? Every, string? Overlap, IReadOnlyList<string>? Tell);

/// <summary>A gate, with its sentence.</summary>
public sealed record GateView(
    string Key, string Title, string Kind, IReadOnlyList<string> Covers, string Reach, string? Audience, IReadOnlyList<string> Acts, string Presence,
    string Answer, string? Message, string? RedirectTo, DateTimeOffset? From, DateTimeOffset? Until, bool Enabled, bool InForce, string UnlockFor,
    PromptWords? Prompt, SiteLink? Link, RotationDraft? Rotation, int Version, string Sentence, IReadOnlyList<SentencePart> Parts,
    IReadOnlyList<IReadOnlyList<string>>? AudienceRows, string? Unreadable, bool StandsIn, string? FromText, string? UntilText,
    string Basic);

/// <summary>A gate as people write it; nothing in it is checked yet.</summary>
public sealed record GateDraft
{
    /// <summary>Its name; made from the title where empty.</summary>
    public string? Key { get; init; }

    /// <summary>What the owner calls it.</summary>
    public string? Title { get; init; }

    /// <summary>Selectors: <c>category:filters</c>, <c>site</c>, <c>path:/members/**</c>.</summary>
    public IReadOnlyList<string>? Covers { get; init; }

    /// <summary><c>branch</c> (usual) or <c>item</c>.</summary>
    public string? Reach { get; init; }

    /// <summary><c>requirement</c> (usual) or <c>exemption</c>.</summary>
    public string? Kind { get; init; }

    /// <summary>The audience expression; not on an exemption.</summary>
    public string? Audience { get; init; }

    /// <summary>Names of acts; empty for the usual ones.</summary>
    public IReadOnlyList<string>? Acts { get; init; }

    /// <summary><c>listed</c>, <c>hidden</c>, or <c>default</c> (usual): as the settings of the site say.</summary>
    public string? Presence { get; init; }

    /// <summary><c>auto</c> (usual), <c>sign-in</c>, <c>password</c>, <c>redirect</c>, <c>message</c>, <c>not-found</c>.</summary>
    public string? Answer { get; init; }

    /// <summary>The owner's words for the refused.</summary>
    public string? Message { get; init; }

    /// <summary>An address on this site, for <c>redirect</c>.</summary>
    public string? RedirectTo { get; init; }

    /// <summary>Start: a moment such as <c>2026-12-01T18:00:00Z</c>, or a day in the site's time zone.</summary>
    public string? From { get; init; }

    /// <summary>End: a moment, or a day that is the last to count.</summary>
    public string? Until { get; init; }

    /// <summary>Whether it counts; true unless said.</summary>
    public bool? Enabled { get; init; }

    /// <summary>How long a shared password opens it: an ISO 8601 duration such as <c>P14D</c>, or <c>session</c>: until the browser is closed.</summary>
    public string? UnlockFor { get; init; }

    /// <summary>The owner's words on its password prompt.</summary>
    public PromptWords? Prompt { get; init; }

    /// <summary>Where the refused learn how to get in: an address on this site, an https address or a mailto.</summary>
    public SiteLink? Link { get; init; }

    /// <summary>How its shared passwords are changed by themselves.</summary>
    public RotationDraft? Rotation { get; init; }

    /// <summary>
    /// Whether it takes a name and password with each request, as download tools send them (RFC 7617): <c>no</c> (usual), <c>tools</c>, or
    /// <c>everybody</c>, where browsers ask for them in their own box.
    /// </summary>
    public string? Basic { get; init; }

    /// <summary>A draft that says what a gate says.</summary>
    public static GateDraft Of(GateView gate) => new()
    {
        Title = gate.Title,
        Covers = gate.Covers,
        Reach = gate.Reach,
        Kind = gate.Kind,
        Audience = gate.Audience,
        Acts = gate.Acts,
        Presence = gate.Presence,
        Answer = gate.Answer,
        Message = gate.Message,
        RedirectTo = gate.RedirectTo,
        From = gate.From?.ToString("O"),
        Until = gate.Until?.ToString("O"),
        Enabled = gate.Enabled,
        UnlockFor = gate.UnlockFor,
        Prompt = gate.Prompt,
        Link = gate.Link,
        Rotation = gate.Rotation,
        Basic = gate.Basic,
    };
}

/// <summary>A change of gates to be looked at before it is saved.</summary>
/// <param name="Key">The gate to change or remove; empty to add one.</param>
/// <param name="Draft">What it would say; null to remove it.</param>
public sealed record PreviewDraft(string? Key, GateDraft? Draft);
