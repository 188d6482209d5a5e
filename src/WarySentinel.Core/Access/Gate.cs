using System.Diagnostics.CodeAnalysis;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>What is attempted. A gate guards several at once.</summary>
[Flags]
public enum Acts
{
    /// <summary>Nothing.</summary>
    None = 0,
    /// <summary>Being shown in listings and menus.</summary>
    List = 1,
    /// <summary>Opening the page.</summary>
    Open = 2,
    /// <summary>Seeing the price.</summary>
    Price = 4,
    /// <summary>Buying.</summary>
    Buy = 8,
    /// <summary>Downloading.</summary>
    Download = 16,
    /// <summary>Listening.</summary>
    Listen = 32,
    /// <summary>What a gate guards unless it names fewer.</summary>
    Usual = Open | Price | Buy | Download | Listen,
}

/// <summary>What the refused find in listings and menus.</summary>
public enum Presence
{
    /// <summary>They see that it exists.</summary>
    Listed,
    /// <summary>They find no trace of it.</summary>
    Hidden,
}

/// <summary>What a refused request gets.</summary>
public enum Answer
{
    /// <summary>Picked by who is refused and what the audience asks for.</summary>
    Auto,
    /// <summary>The sign-in page.</summary>
    SignIn,
    /// <summary>The shared-password prompt.</summary>
    Password,
    /// <summary>Another page.</summary>
    Redirect,
    /// <summary>A message in the owner's words, status 403.</summary>
    Message,
    /// <summary>Nothing there, status 404.</summary>
    NotFound,
    /// <summary>The page where people join, which leads to the sign-in page; sign-in itself where nobody may join.</summary>
    Register,
}

/// <summary>What a gate covers: an item, or the addresses of a path pattern (<c>path:/members/**</c>).</summary>
public sealed record Selector(ItemId? Item, Address? Path)
{
    /// <summary>Reads <c>kind:key</c>, <c>site</c> or <c>path:/…</c>.</summary>
    public static bool TryParse(string? text, [NotNullWhen(true)] out Selector? selector, [NotNullWhen(false)] out Wording? reason)
    {
        selector = null;
        if (text is not null && text.StartsWith("path:", StringComparison.Ordinal))
        {
            if (!Address.TryParse(text[5..], out var address, out reason))
            {
                return false;
            }

            selector = new Selector(null, address);
            return true;
        }

        if (!ItemId.TryParse(text, out var id))
        {
            reason = Wording.Of("selector.form", text);
            return false;
        }

        reason = null;
        selector = new Selector(id, null);
        return true;
    }

    /// <summary>Reads a selector that is known to be good. Throws <see cref="FormatException"/> when it is not.</summary>
    public static Selector Parse(string text) =>
        TryParse(text, out var selector, out var reason) ? selector : throw new FormatException(reason.ToString());

    /// <inheritdoc/>
    public override string ToString() => Item is { } id ? id.ToString() : "path:" + Path;
}

/// <summary>The owner's words on a password prompt; what is null is said in the service's own.</summary>
public sealed record PromptWords(string? Heading = null, string? Text = null, string? Label = null, string? Placeholder = null, string? Button = null)
{
    /// <summary>These words, and those of the other where these say nothing.</summary>
    public PromptWords Or(PromptWords? other) => new(
        Heading ?? other?.Heading, Text ?? other?.Text, Label ?? other?.Label, Placeholder ?? other?.Placeholder, Button ?? other?.Button);

    /// <summary>The words without blanks around them; null where nothing is said at all.</summary>
    public static PromptWords? Tidy(PromptWords? words)
    {
        static string? Cut(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();
        var tidy = words is null ? null : new PromptWords(Cut(words.Heading), Cut(words.Text), Cut(words.Label), Cut(words.Placeholder), Cut(words.Button));
        return tidy == new PromptWords() ? null : tidy;
    }

    /// <summary>The name of the first field that is too long, or holds what no text may, or null.</summary>
    public string? Wrong()
    {
        static bool Bad(string? text, int most, bool lines = false) => text?.Length > most || !PlainText.IsClean(text, lines);
        return Bad(Heading, 120) ? "heading" : Bad(Text, 1000, true) ? "text" : Bad(Label, 60) ? "label" : Bad(Placeholder, 60) ? "placeholder"
            : Bad(Button, 40) ? "button" : null;
    }
}

/// <summary>Whether a gate takes a name and password that come with each request, as download tools send them (RFC 7617).</summary>
public enum BasicUse
{
    /// <summary>It does not.</summary>
    No,
    /// <summary>It does, and asks programs for them; browsers are led to the sign-in page.</summary>
    Tools,
    /// <summary>It does, and asks everybody for them: a browser shows its own box, that no page can style.</summary>
    Everybody,
}

/// <summary>How shared passwords are changed by themselves.</summary>
/// <param name="Every">How old a password grows before another takes its place.</param>
/// <param name="Overlap">How long both work.</param>
/// <param name="Tell">E-mail addresses that the new one is sent to; never empty.</param>
public sealed record Rotation(TimeSpan Every, TimeSpan Overlap, IReadOnlyList<string> Tell)
{
    /// <summary>So many addresses are told at most.</summary>
    public const int MostTold = 500;

    /// <inheritdoc/>
    public bool Equals(Rotation? other) => other is not null && Every == other.Every && Overlap == other.Overlap && Tell.SequenceEqual(other.Tell);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Every, Overlap, Tell.Count);
}

/// <summary>A rule: what it covers, whom it admits, what the refused meet. With <see cref="IsExemption"/> it lifts broader gates instead.</summary>
public sealed record Gate
{
    /// <summary>How long a shared password opens a gate unless it says otherwise.</summary>
    public static readonly TimeSpan UsualUnlock = TimeSpan.FromDays(14);

    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>What the owner calls it.</summary>
    public required string Title { get; init; }

    /// <summary>What it covers; never empty.</summary>
    public required IReadOnlyList<Selector> Covers { get; init; }

    /// <summary>Whether it covers only the named items and not what is beneath them (<c>reach: item</c>).</summary>
    public bool ItemOnly { get; init; }

    /// <summary>Whether it lifts broader gates.</summary>
    public bool IsExemption { get; init; }

    /// <summary>Whom it admits. Meaningless on an exemption.</summary>
    public Audience Audience { get; init; } = Audience.Anyone;

    /// <summary>What it guards, <see cref="Acts.List"/> apart.</summary>
    public Acts Acts { get; init; } = Acts.Usual;

    /// <summary>What the refused find in listings.</summary>
    public Presence Presence { get; init; } = Presence.Listed;

    /// <summary>Whether it leaves <see cref="Presence"/> to the site's settings; a policy sets it so.</summary>
    public bool PresenceBySite { get; init; }

    /// <summary>What a refused request gets.</summary>
    public Answer Answer { get; init; } = Answer.Auto;

    /// <summary>The owner's words for the refused.</summary>
    public string? Message { get; init; }

    /// <summary>Where the refused are sent under <see cref="Answer.Redirect"/>: an address on this site.</summary>
    public string? RedirectTo { get; init; }

    /// <summary>Start, or null for always.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>End, or null for never.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>Whether it counts at all.</summary>
    public bool Enabled { get; init; } = true;

    /// <summary>How long a shared password opens it; zero: until the browser is closed.</summary>
    public TimeSpan UnlockFor { get; init; } = UsualUnlock;

    /// <summary>The owner's words on its password prompt, where they differ from the site's.</summary>
    public PromptWords? Prompt { get; init; }

    /// <summary>Where the refused learn how to get in.</summary>
    public SiteLink? Link { get; init; }

    /// <summary>How its shared passwords are changed by themselves, if they are.</summary>
    public Rotation? Rotation { get; init; }

    /// <summary>Whether it takes a name and password that come with each request.</summary>
    public BasicUse Basic { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Why the store could not read it as it was written, where it could not; it is closed to everybody until it is mended.</summary>
    public Wording? Unreadable { get; init; }

    /// <summary>Whether it closes what something else covered that could not be read; it is in no store itself.</summary>
    public bool StandsIn { get; init; }

    /// <summary>Enabled, and within its dates.</summary>
    public bool IsInForce(DateTimeOffset now) => Enabled && (From is null || From <= now) && (Until is null || now < Until);

    /// <summary>Whether it admits a visitor; who comes by name and password with the request counts for it only where it takes them.</summary>
    public bool Admits(Facts.Visitor visitor, DateTimeOffset now) =>
        Audience.Admits(visitor.Bare is { } bare && Basic == BasicUse.No ? bare : visitor, Key, now);

    /// <summary>What it guards, with <see cref="Acts.List"/> where the refused find no trace.</summary>
    public Acts Guards => Presence == Presence.Hidden ? Acts | Acts.List : Acts;
}

/// <summary>The names of acts as they are written.</summary>
public static class ActNames
{
    /// <summary>Every single act.</summary>
    public static readonly IReadOnlyList<Acts> Each = [Acts.List, Acts.Open, Acts.Price, Acts.Buy, Acts.Download, Acts.Listen];

    /// <summary>The name of one act.</summary>
    public static string NameOf(Acts act) => act.ToString().ToLowerInvariant();

    /// <summary>The names of all acts in a set.</summary>
    public static IReadOnlyList<string> NamesOf(Acts acts) => [.. Each.Where(a => acts.HasFlag(a)).Select(NameOf)];

    /// <summary>Reads the name of one act.</summary>
    public static bool TryParse(string? text, out Acts act)
    {
        act = Each.FirstOrDefault(a => NameOf(a) == text);
        return act != Acts.None;
    }
}
