using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Pages;

/// <summary>Something that somebody has.</summary>
/// <param name="Title">What people call it.</param>
/// <param name="Kind">Which sort of fact.</param>
/// <param name="Until">When it ends; null where it has no end, or a rule gives it.</param>
public sealed record HeldTitle(string Title, FactKind Kind, DateTimeOffset? Until)
{
    /// <summary>Its key.</summary>
    public string Key { get; init; } = "";
}

/// <summary>What an account menu and the account page say: what somebody has, and where their roles lead.</summary>
public static class AccountMenu
{
    /// <summary>What they have now and until when, by kind and name; the later end of two counts.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="visitor">Whoever has them.</param>
    /// <param name="now">Now.</param>
    /// <param name="book">Knows the owner's titles in the reader's language.</param>
    public static IReadOnlyList<HeldTitle> HeldBy(Policy policy, Visitor visitor, DateTimeOffset now, Wordbook book)
    {
        var byRule = policy.Rules.GroupsOf(visitor, now).ToHashSet(StringComparer.Ordinal);
        var held = new List<HeldTitle>();
        foreach (var fact in policy.Definitions)
        {
            var grants = visitor.Grants.Where(g => g.Kind == fact.Kind && g.Key == fact.Key).ToList();
            if (visitor.IsSignedIn && (grants.Exists(g => g.IsInForce(now)) || (fact.Kind == FactKind.Group && byRule.Contains(fact.Key))))
            {
                held.Add(new HeldTitle(book.FindOwn(NameOf(fact) + ".title") ?? fact.Title, fact.Kind, EndOf(grants, now)) { Key = fact.Key });
            }
        }

        return held;
    }

    /// <summary>Until when somebody has something without a break: what begins where it would end goes on from there. Null for always.</summary>
    public static DateTimeOffset? EndOf(IReadOnlyList<Grant> grants, DateTimeOffset now)
    {
        DateTimeOffset? end = null;
        foreach (var grant in grants.Where(g => !g.IsOver(now)).OrderBy(g => g.From ?? DateTimeOffset.MinValue))
        {
            if (!grant.IsInForce(now) && (end is null || grant.From > end))
            {
                break;
            }

            if (grant.Until is null)
            {
                return null;
            }

            end = end is null || grant.Until > end ? grant.Until : end;
        }

        return end;
    }

    /// <summary>The links of their roles, in the order of the roles and of each role's links; each address once, and none that is closed to them.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="visitor">Whoever they are for.</param>
    /// <param name="now">Now.</param>
    /// <param name="book">Knows the owner's words in the reader's language.</param>
    public static IReadOnlyList<MenuLink> LinksOf(Policy policy, Visitor visitor, DateTimeOffset now, Wordbook book) =>
    [
        .. policy.Definitions.Where(d => d is { Kind: FactKind.Role, Links.Count: > 0 } && visitor.Has(FactKind.Role, d.Key, now))
            .SelectMany(d => d.Links.Select(l => l with { Words = book.FindOwn($"{NameOf(d)}.link:{l.Address}") ?? l.Words }))
            .DistinctBy(l => l.Address).Where(l => Landing.IsOpen(policy, l.Address, visitor, now)),
    ];

    /// <summary>The downloads that are theirs: open to them and not to every guest; by title, so many at most.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="visitor">Whoever they are for.</param>
    /// <param name="now">Now.</param>
    /// <param name="book">Knows the owner's words in the reader's language.</param>
    /// <param name="most">At most so many.</param>
    public static IReadOnlyList<MenuLink> DownloadsOf(Policy policy, Visitor visitor, DateTimeOffset now, Wordbook book, int most) =>
    [
        .. policy.Graph.Items.Where(i => i.Id.Kind == ItemKind.Download && policy.Allows(visitor, i.Id, Acts.Download, now)
                && !policy.Allows(Visitor.Guest, i.Id, Acts.Download, now))
            .Select(i => (Item: i, Address: i.Addresses.FirstOrDefault(a => !a.IsPattern)?.Text))
            .Where(i => i.Address is not null && Landing.IsOpen(policy, i.Address, visitor, now))
            .Select(i => new MenuLink(i.Address!, book.FindOwn(TextCatalogue.TitleKey(i.Item.Id)) ?? i.Item.Title))
            .OrderBy(l => l.Words, Spelling.SortingOf(policy.Settings.Language)).Take(most),
    ];

    private static string NameOf(FactDefinition fact) => $"{FactNames.NameOf(fact.Kind)}:{fact.Key}";
}
