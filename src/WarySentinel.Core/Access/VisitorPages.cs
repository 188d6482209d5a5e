using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>For whom a page of ours is of use.</summary>
public enum PageUse
{
    /// <summary>Whoever has not signed in.</summary>
    Guests,
    /// <summary>Whoever has.</summary>
    Members,
    /// <summary>Both.</summary>
    Everybody,
}

/// <summary>A page that the service has for visitors.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Path">Where it stands beneath the account pages, such as <c>/sign-in</c>.</param>
/// <param name="Words">The groups of texts that it is made of; the first has its title.</param>
/// <param name="Use">For whom it is of use.</param>
public sealed record VisitorPage(string Key, string Path, IReadOnlyList<string> Words, PageUse Use)
{
    /// <summary>Whether pages stand beneath it, as each form beneath the registration.</summary>
    public bool HasMore { get; init; }

    /// <summary>Whether it has an address; without one it is shown at the address that was asked for.</summary>
    public bool HasAddress { get; init; } = true;

    /// <summary>Whether a site may do without it.</summary>
    public bool CanBeOff { get; init; } = true;

    /// <summary>The text that leads to it in the site's menu; null where no menu leads there.</summary>
    public string? MenuText { get; init; }

    /// <summary>The occasion of redirects on which it is done, such as <c>sign-in</c>; null where it leads nowhere.</summary>
    public string? Done { get; init; }

    /// <summary>Whether it stands in the site's menu unless the owner says otherwise.</summary>
    public bool IsInMenu { get; init; }
}

/// <summary>The pages that the service has for visitors.</summary>
public static class VisitorPages
{
    /// <summary>All of them, in the order of the site's menu.</summary>
    public static readonly IReadOnlyList<VisitorPage> All =
    [
        new("sign-in", "/sign-in", ["sign-in", "password", "error", "time"], PageUse.Guests)
        { CanBeOff = false, MenuText = "menu.sign-in", IsInMenu = true, Done = "sign-in" },
        new("register", "/register", ["register", "form", "meter", "agree"], PageUse.Guests) { HasMore = true, MenuText = "register.title",
            Done = "registration" },
        new("letter-sign-in", "/sign-in/letter", ["letter-sign-in", "code", "link-sign-in"], PageUse.Guests) { MenuText = "letter-sign-in.title" },
        new("forgotten", "/password/forgotten", ["forgotten"], PageUse.Guests) { MenuText = "forgotten.title" },
        new("set-password", "/password/set", ["set", "link", "meter"], PageUse.Everybody) { CanBeOff = false, Done = "password-set" },
        new("confirm", "/confirm", ["confirm", "new-address", "link"], PageUse.Everybody) { CanBeOff = false, Done = "confirmation" },
        new("join", "/join", ["join"], PageUse.Everybody) { CanBeOff = false },
        new("unlock", "/unlock", ["unlock", "opened", "error"], PageUse.Everybody)
        { CanBeOff = false, MenuText = "unlock.title", Done = "unlock" },
        new("thanks", "/thanks", ["thanks"], PageUse.Everybody) { CanBeOff = false },
        new("account", "/", ["account", "organisation"], PageUse.Members) { CanBeOff = false, MenuText = "account.title", IsInMenu = true },
        new("profile", "/profile", ["profile", "form", "answer"], PageUse.Members) { MenuText = "profile.title" },
        new("application", "/application", ["application", "form"], PageUse.Everybody) { CanBeOff = false },
        new("change-password", "/password", ["change", "meter"], PageUse.Members) { MenuText = "change.title" },
        new("address", "/address", ["address"], PageUse.Members),
        new("letters", "/letters", ["letters"], PageUse.Members) { CanBeOff = false, MenuText = "letters.title" },
        new("directory", "/directory", ["directory"], PageUse.Everybody) { HasMore = true, MenuText = "directory.title" },
        new("search", "/search", ["search"], PageUse.Everybody) { MenuText = "search.title" },
        new("terms", "/terms", ["terms", "agree"], PageUse.Everybody) { HasMore = true, CanBeOff = false, MenuText = "terms.title" },
        new("sign-out", "/sign-out", ["sign-out", "signed-out"], PageUse.Members) { CanBeOff = false, MenuText = "account.sign-out", IsInMenu = true,
            Done = "sign-out" },
        new("refused", "/closed", ["closed", "not-found", "ambiguous"], PageUse.Everybody) { CanBeOff = false, HasAddress = false, Done = "refusal" },
        new("failure", "/failure", ["origin", "broken", "slow", "full", "unreadable", "too-large"], PageUse.Everybody)
        { CanBeOff = false, HasAddress = false },
    ];

    private static readonly Dictionary<string, VisitorPage> ByKey = All.ToDictionary(p => p.Key, StringComparer.Ordinal);

    /// <summary>The page of that name, or null.</summary>
    public static VisitorPage? Find(string key) => ByKey.GetValueOrDefault(key);

    /// <summary>The page at a path beneath the account pages, and what comes behind its own; null where none of these stands there.</summary>
    /// <remarks>As the service itself reads its addresses: whatever the case, and with a slash at the end or without.</remarks>
    public static (VisitorPage Page, string More)? At(string path)
    {
        path = path.Length > 1 ? path.TrimEnd('/') : path;
        var found = All.Where(p => p.HasAddress && Is(p, path)).OrderByDescending(p => p.Path.Length).FirstOrDefault();
        return found is null ? null : (found, path.Length > found.Path.Length && found.Path != "/" ? path[found.Path.Length..] : "");
    }

    private static bool Is(VisitorPage page, string path) =>
        string.Equals(path, page.Path, StringComparison.OrdinalIgnoreCase) || (path.Length == 0 && page.Path == "/")
        || (page.HasMore && path.StartsWith(page.Path + "/", StringComparison.OrdinalIgnoreCase));
}

/// <summary>What the owner set of a page.</summary>
/// <param name="Key">The page.</param>
public sealed record PageSetting(string Key)
{
    /// <summary>An address of its own on the site, in its normal form; null for the one beneath the account pages.</summary>
    public string? Address { get; init; }

    /// <summary>Whether the site does without it.</summary>
    public bool IsOff { get; init; }

    /// <summary>Whether it stands in the site's menu; null for as it is usual.</summary>
    public bool? InMenu { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Whether it says nothing at all.</summary>
    public bool IsUsual => Address is null && !IsOff && InMenu is null;
}

/// <summary>What the owner set of pages. Immutable.</summary>
public sealed record PageBook : IPolicyPart
{
    private readonly Dictionary<string, PageSetting> byKey = new(StringComparer.Ordinal);

    /// <summary>Nothing.</summary>
    public PageBook()
    {
    }

    /// <summary>Some, one for each page.</summary>
    public PageBook(IEnumerable<PageSetting> settings)
    {
        All = [.. settings.OrderBy(s => s.Key, StringComparer.Ordinal)];
        byKey = All.ToDictionary(s => s.Key, StringComparer.Ordinal);
        Moved = [.. All.Where(s => s.Address is not null && VisitorPages.Find(s.Key) is not null)];
    }

    /// <summary>All of them, by page.</summary>
    public IReadOnlyList<PageSetting> All { get; } = [];

    /// <summary>Those with an address of their own.</summary>
    public IReadOnlyList<PageSetting> Moved { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <summary>That of a policy.</summary>
    public static PageBook Of(Policy policy) => policy.Parts.Of<PageBook>();

    /// <summary>What is set of a page.</summary>
    public PageSetting Find(string key) => byKey.GetValueOrDefault(key) ?? new PageSetting(key) { Version = 0 };

    /// <summary>Whether the site has a page.</summary>
    public bool Has(string key) => !Find(key).IsOff;

    /// <summary>Where a page stands: at its own address, or beneath the account pages.</summary>
    /// <param name="prefix">Where those stand, such as <c>/account</c>.</param>
    /// <param name="path">The path beneath them, such as <c>/register/trade</c>.</param>
    public string AddressOf(string prefix, string path) =>
        Moved.Count > 0 && VisitorPages.At(path) is var (page, more) && Find(page.Key).Address is { } own ? own + more : prefix + path;

    /// <summary>
    /// The path beneath the account pages that an address of a page's own stands for; null where it is none. On the path of every request: where no page has
    /// one, nothing is looked at.
    /// </summary>
    /// <param name="path">The path as it came.</param>
    /// <param name="rules">How the site reads paths.</param>
    public string? PathAt(string path, PathRules rules)
    {
        if (Moved.Count == 0 || !RequestPath.TryNormalise(path, rules, out var asked, out _))
        {
            return null;
        }

        foreach (var setting in Moved)
        {
            var (page, own) = (VisitorPages.Find(setting.Key)!, setting.Address!);
            if (!RequestPath.TryNormalise(own, rules, out var at, out _))
            {
                continue;
            }

            if (asked.Key == at.Key)
            {
                return page.Path;
            }

            if (page.HasMore && asked.Key.StartsWith(at.Key + "/", StringComparison.Ordinal))
            {
                return page.Path + asked.Key[at.Key.Length..];
            }
        }

        return null;
    }
}

/// <summary>Stores what the owner set of a page.</summary>
public sealed record PagePut(PageSetting Setting) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new PageBook(draft.Part<PageBook>().All.Where(s => s.Key != Setting.Key).Append(Setting)));
}

/// <summary>Drops what the owner set of a page.</summary>
public sealed record PageDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new PageBook(draft.Part<PageBook>().All.Where(s => s.Key != Key)));
}
