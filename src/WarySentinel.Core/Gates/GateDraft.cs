using System.Xml;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

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
    /// Whether it takes a name and password with each request, as download tools send them: <c>no</c> (usual), <c>tools</c>, or <c>everybody</c>, where
    /// browsers ask for them in their own box.
    /// </summary>
    public string? Basic { get; init; }

    /// <summary>The draft that says what a gate says.</summary>
    public static GateDraft Of(Gate gate) => new()
    {
        Key = gate.Key,
        Title = gate.Title,
        Covers = [.. gate.Covers.Select(c => c.ToString())],
        Reach = gate.ItemOnly ? "item" : "branch",
        Kind = gate.IsExemption ? "exemption" : "requirement",
        Audience = gate.IsExemption ? null : gate.Audience.ToString(),
        Acts = ActNames.NamesOf(gate.Acts),
        Presence = gate.PresenceBySite ? "default" : gate.Presence.ToString().ToLowerInvariant(),
        Answer = AnswerNames.NameOf(gate.Answer),
        Message = gate.Message,
        RedirectTo = gate.RedirectTo,
        From = gate.From is { } from ? SiteDates.Write(from) : null,
        Until = gate.Until is { } until ? SiteDates.Write(until) : null,
        Enabled = gate.Enabled,
        UnlockFor = gate.UnlockFor == TimeSpan.Zero ? "session" : XmlConvert.ToString(gate.UnlockFor),
        Prompt = gate.Prompt,
        Link = gate.Link,
        Rotation = RotationDraft.Of(gate.Rotation),
        Basic = gate.Basic.ToString().ToLowerInvariant(),
    };

    /// <summary>Whether both say the same, field by field.</summary>
    public bool SaysTheSameAs(GateDraft other) => Detail.ChangesOf(Detail.Of(this, other)).Count == 0;

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<Gate> Read(Policy policy, IKnownKeys known, IReadOnlyList<string> reserved) => new GateReader(this, policy, known, reserved).Read();
}
