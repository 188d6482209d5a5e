using System.Text.RegularExpressions;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Pages;

/// <summary>A text that visitors read.</summary>
/// <param name="Key">Its key: ours such as <c>sign-in.title</c>, the owner's own such as <c>gate:dealer-stock.message</c>.</param>
/// <param name="Group">What it belongs to: the part before the first dot.</param>
/// <param name="Text">What it says: ours in English, the owner's as it stands where it is set.</param>
/// <param name="IsOwners">Whether it is the owner's own, which is said in the site's language where it is set, and here in others.</param>
/// <param name="Longest">Most characters.</param>
public sealed record PageText(string Key, string Group, string Text, bool IsOwners, int Longest)
{
    /// <summary>Whether it may have several lines.</summary>
    public bool HasLines { get; init; }
}

/// <summary>Every text that visitors read on pages of ours, of the service and of the owner.</summary>
public static partial class TextCatalogue
{
    private const int Longest = 1000;
    private const int LongestItemTitle = 300;
    private const int MostItems = 500;
    private const string Title = ".title";
    private static readonly Dictionary<string, PageText> Ours = Wordbook.English.VisitorKeys.ToDictionary(
        k => k, k => new PageText(k, GroupOf(k), Wordbook.English[k], false, Longest), StringComparer.Ordinal);

    /// <summary>The texts that count something: those that some language has a form of a count for.</summary>
    private static readonly Lazy<HashSet<string>> Counting = new(() =>
    [
        .. Wordbook.Languages.SelectMany(l => Wordbook.Find(l)!.VisitorKeys).Where(k => k.LastIndexOf('.') is > 0 and var dot
            && Plural.Forms.Contains(k[(dot + 1)..]) && Ours.ContainsKey(k[..dot])).Select(k => k[..k.LastIndexOf('.')]),
    ]);

    /// <summary>Those of the service, in the order of its book; forms of a count (<c>sign-in.keep.one</c>) only as far as English has them.</summary>
    public static IEnumerable<PageText> OfService => Ours.Values;

    /// <summary>Those of the owner that a policy says: names, links of menus, prompts, messages of gates, titles of facts.</summary>
    public static IEnumerable<PageText> OfOwner(Policy policy)
    {
        var settings = policy.Settings;
        yield return Own("site.name", settings.SiteName, 120);
        foreach (var link in settings.Look.Links)
        {
            yield return Own("site.link:" + link.Address, link.Words, 60);
        }

        foreach (var text in PromptOf("site", settings.Prompt))
        {
            yield return text;
        }

        foreach (var text in policy.Gates.Where(g => !g.IsExemption && !g.StandsIn).SelectMany(OfGate))
        {
            yield return text;
        }

        var parts = policy.Parts.All.SelectMany(p => p.Texts).ToList();
        foreach (var text in parts)
        {
            yield return Own(text.Key, text.Text, text.Longest);
        }

        // Those that visitors read on pages of ours: what is closed, and sections. All others can be said, too.
        var said = parts.Select(t => t.Key).ToHashSet(StringComparer.Ordinal);
        foreach (var item in policy.Gates.SelectMany(g => g.Covers).Select(c => c.Item).OfType<ItemId>().Where(i => i != ItemId.Site)
            .Concat(policy.Graph.Items.Where(i => i.Id.Kind == ItemKind.Section).Select(i => i.Id)).Distinct().Take(MostItems)
            .Select(policy.Graph.Find).OfType<Item>().Where(i => !said.Contains(TitleKey(i.Id))))
        {
            yield return TitleOf(item);
        }

        foreach (var fact in policy.Definitions.Where(d => d.Kind is FactKind.Role or FactKind.Group or FactKind.Plan))
        {
            var name = $"{FactNames.NameOf(fact.Kind)}:{fact.Key}";
            yield return Own(name + ".title", fact.Title, 120);
            foreach (var link in fact.Links)
            {
                yield return Own($"{name}.link:{link.Address}", link.Words, 60);
            }
        }
    }

    /// <summary>The key of an item's title.</summary>
    public static string TitleKey(ItemId id) => $"item:{id}{Title}";

    /// <summary>The key of what an item is about, where that is said.</summary>
    public static string DescriptionKey(ItemId id) => $"item:{id}.description";

    /// <summary>The text under a key; null where there is none.</summary>
    public static PageText? Find(Policy policy, string key) =>
        Ours.GetValueOrDefault(key) ?? FormOf(key) ?? OfItem(policy, key) ?? OfOwner(policy).FirstOrDefault(t => t.Key == key);

    /// <summary>The title of any item, also of one that <see cref="OfOwner"/> leaves out.</summary>
    private static PageText? OfItem(Policy policy, string key) =>
        key.StartsWith("item:", StringComparison.Ordinal) && key.EndsWith(Title, StringComparison.Ordinal) && key.Length > 5 + Title.Length
        && ItemId.TryParse(key[5..^Title.Length], out var id) && policy.Graph.Find(id) is { } item ? TitleOf(item) : null;

    private static PageText TitleOf(Item item) => Own(TitleKey(item.Id), item.Title, LongestItemTitle);

    /// <summary>The values that a text has places for, such as <c>{0}</c>.</summary>
    public static IReadOnlySet<string> ValuesIn(string text) => Values().Matches(text).Select(m => m.Value).ToHashSet(StringComparer.Ordinal);

    /// <summary>Whether every brace of a text belongs to a place for a value.</summary>
    public static bool HasOddBraces(string text) => Values().Replace(text, "").AsSpan().IndexOfAny('{', '}') >= 0;

    private static IEnumerable<PageText> OfGate(Gate gate)
    {
        var name = "gate:" + gate.Key;
        yield return Own(name + ".title", gate.Title, 120);
        if (gate.Message is { } message)
        {
            yield return Own(name + ".message", message, Longest) with { HasLines = true };
        }

        if (gate.Link is { } link)
        {
            yield return Own(name + ".link", link.Words, 80);
        }

        foreach (var text in PromptOf(name, gate.Prompt))
        {
            yield return text;
        }
    }

    private static IEnumerable<PageText> PromptOf(string name, PromptWords? prompt)
    {
        (string Field, string? Text, int Most)[] said =
        [
            ("heading", prompt?.Heading, 120), ("text", prompt?.Text, Longest), ("label", prompt?.Label, 60), ("placeholder", prompt?.Placeholder, 60),
            ("button", prompt?.Button, 40),
        ];
        return said.Where(s => s.Text is not null)
            .Select(s => Own($"{name}.prompt.{s.Field}", s.Text!, s.Most) with { HasLines = s.Field == "text" });
    }

    private static PageText Own(string key, string text, int longest) => new(key, GroupOf(key), text, true, longest);

    /// <summary>A form of a count that English does not have, but another language does.</summary>
    private static PageText? FormOf(string key)
    {
        var dot = key.LastIndexOf('.');
        return dot > 0 && Plural.Forms.Contains(key[(dot + 1)..]) && Counting.Value.Contains(key[..dot]) ? Ours[key[..dot]] with { Key = key } : null;
    }

    private static string GroupOf(string key) => key[..key.IndexOf('.', StringComparison.Ordinal)];

    [GeneratedRegex(@"\{\w+\}")]
    private static partial Regex Values();
}
