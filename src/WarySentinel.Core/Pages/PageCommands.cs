using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Pages;

/// <summary>What is set of a page, as people write it; what is null is as usual.</summary>
/// <param name="Key">The page.</param>
/// <param name="Address">An address of its own on the site.</param>
/// <param name="Off">Whether the site does without it.</param>
/// <param name="Menu">Whether it stands in the site's menu.</param>
public sealed record PageDraft(string? Key, string? Address = null, bool? Off = null, bool? Menu = null)
{
    /// <summary>The draft that says the same as what is set.</summary>
    public static PageDraft Of(PageSetting setting) => new(setting.Key, setting.Address, setting.IsOff ? true : null, setting.InMenu);
}

/// <summary>Changes where the pages of the service stand, and whether they do.</summary>
public static class PageCommands
{
    /// <summary>Stores what is set of a page.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="reserved">Path prefixes that the service serves itself.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    public static Outcome<Edit<PageSetting>> Set(Policy policy, PageDraft draft, IReadOnlyList<string> reserved, int? version = null)
    {
        var book = PageBook.Of(policy);
        if (VisitorPages.Find(draft.Key ?? "") is not { } page)
        {
            return Problem.In("key", "page-unknown", draft.Key, Nearest.To(draft.Key ?? "", VisitorPages.All.Select(p => p.Key)) ?? "sign-in");
        }

        var old = book.Find(page.Key);
        if (version is { } seen && seen != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", "page:" + page.Key);
        }

        var faults = new Faults();
        faults.Unless(draft.Off != true || page.CanBeOff, "off", "page-needed", page.Key);
        faults.Unless(draft.Menu != true || page.MenuText is not null, "menu", "page-menu", page.Key);
        var address = string.IsNullOrWhiteSpace(draft.Address) ? null : draft.Address.Trim();
        faults.Unless(address is null || page.HasAddress, "address", "page-addressless", page.Key);
        if (address is not null && page.HasAddress && Taken(policy, page, address, reserved) is var (code, by))
        {
            faults.Bad("address", code, address, by, Free(policy, page, address, reserved));
        }

        if (faults.Any)
        {
            return faults.ToProblem("page-invalid");
        }

        var fresh = new PageSetting(page.Key)
        {
            Address = address, IsOff = draft.Off == true, InMenu = draft.Menu == page.IsInMenu ? null : draft.Menu, Version = old.Version + 1,
        };
        if (fresh with { Version = old.Version } == old)
        {
            return new Edit<PageSetting>(new Edit("page.set", page.Key, []), old);
        }

        Change change = fresh.IsUsual ? new PageDropped(page.Key) : new PagePut(fresh);
        return new Edit<PageSetting>(
            new Edit("page.set", page.Key, [change]) { Detail = Detail.Of(old.Version == 0 ? null : PageDraft.Of(old), PageDraft.Of(fresh)) },
            fresh.IsUsual ? new PageSetting(page.Key) { Version = 0 } : fresh);
    }

    /// <summary>Has a page be as usual.</summary>
    public static Outcome<Edit<PageSetting>> Reset(Policy policy, string key, IReadOnlyList<string> reserved) => Set(policy, new PageDraft(key), reserved);

    /// <summary>What has an address already, as the code of a problem and its name; null where it is free for a page.</summary>
    private static (string Code, string? By)? Taken(Policy policy, VisitorPage page, string address, IReadOnlyList<string> reserved)
    {
        var rules = policy.Settings.Paths;
        if (new PageAddresses(policy, reserved).TakenBy(address, (m, path) => m.Key != page.Key && Meet(m, page, path, rules)) is { } taken)
        {
            return taken;
        }

        if (page.HasMore && RequestPath.TryNormalise(address, rules, out var above, out _)
            && policy.Graph.Items.FirstOrDefault(i => i.Addresses.Any(a => StandsBeneath(a, above, rules))) is { } beneath)
        {
            return ("page-address-item", beneath.Id.ToString());
        }

        // A gate on the whole site is no reason: whom it keeps out has to find a way in.
        return RequestPath.TryNormalise(address, rules, out var at, out _)
            && policy.Gates.FirstOrDefault(g => g.Covers.Any(c => c.Path is { LiteralPrefix: > 1 } pattern && pattern.Matches(at, rules))) is { } gate
            ? ("page-address-gate", gate.Title) : null;
    }

    /// <summary>Whether an item has an address among those of the pages that stand beneath another.</summary>
    private static bool StandsBeneath(Address address, RequestPath above, PathRules rules)
    {
        var literal = address.IsPattern ? address.PathText[..address.PathText.IndexOf('*', StringComparison.Ordinal)].TrimEnd('/') : address.PathText;
        return literal.Length > 1 && RequestPath.TryNormalise(Uri.EscapeDataString(literal).Replace("%2F", "/", StringComparison.Ordinal), rules,
            out var path, out _)
            && RequestPath.IsUnder(path.Key, above.Key);
    }

    /// <summary>Whether two pages would stand at one address, or one beneath the other's own pages.</summary>
    private static bool Meet(PageSetting there, VisitorPage page, RequestPath path, PathRules rules) =>
        RequestPath.TryNormalise(there.Address!, rules, out var at, out _)
        && (at.Key == path.Key || (VisitorPages.Find(there.Key)!.HasMore && RequestPath.IsUnder(path.Key, at.Key))
            || (page.HasMore && RequestPath.IsUnder(at.Key, path.Key)));

    /// <summary>An address near the wanted one that is free.</summary>
    private static string Free(Policy policy, VisitorPage page, string wanted, IReadOnlyList<string> reserved)
    {
        var start = "/" + string.Concat(wanted.Trim('/').Where(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '/').Take(60));
        string[] named = ["/" + page.Key, start, $"{start.TrimEnd('/')}-{page.Key}"];
        return named.Concat(Enumerable.Range(2, 50).Select(n => $"/{page.Key}-{n}")).FirstOrDefault(a => Taken(policy, page, a, reserved) is null) ?? "";
    }
}
