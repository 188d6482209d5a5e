using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using WarySentinel.Core.Markup;

namespace WarySentinel.Core.Entries;

/// <summary>A rule that could be made of a page or of data.</summary>
/// <param name="Draft">The rule, without name and addresses.</param>
/// <param name="Count">How many entries it finds there.</param>
/// <param name="Items">How many of them are about something that the catalogue has.</param>
/// <param name="Example">Words of the first.</param>
public sealed record FoundEntries(EntryDraft Draft, int Count, int Items, string Example);

/// <summary>
/// Finds what looks like entries: elements of one sort side by side, each with a link of its own; objects of a list, each with an address or a name of its
/// own. Lists and tables are left out, as the filter knows them without.
/// </summary>
public static partial class EntryFinder
{
    private const int Most = 8;
    private const int MostWords = 120;
    private const int MostLevels = 8;
    private static readonly HashSet<string> KnownWithout = ["li", "tr", "dt", "dd", "option"];
    private static readonly HashSet<string> Never = ["html", "body", "main", "a", "span", "b", "i", "em", "strong", "svg", "path"];

    /// <summary>Finds cards on a page, those first that are about the most items.</summary>
    /// <param name="html">The page.</param>
    /// <param name="isItem">Whether an address, as it stands in a link, leads to something that the catalogue has.</param>
    /// <param name="leads">Whether an address leads to a page of this site.</param>
    public static IReadOnlyList<FoundEntries> OnPage(string html, Func<string, bool> isItem, Func<string, bool> leads)
    {
        var page = new HtmlParser().ParseDocument(html);
        var links = page.QuerySelectorAll("a[href]").Where(a => leads(a.GetAttribute("href")!)).ToList();
        var found = new Dictionary<string, FoundEntries>(StringComparer.Ordinal);
        foreach (var link in links)
        {
            var levels = 0;
            for (IElement? at = link; at?.ParentElement is { } around && levels++ < MostLevels; at = around)
            {
                if (SelectorOf(at) is { } selector && !found.ContainsKey(selector) && Weighed(page, selector, isItem, leads) is { } weighed)
                {
                    found[selector] = weighed;
                }
            }
        }

        return [.. found.Values.OrderByDescending(f => f.Items).ThenByDescending(f => f.Count).ThenByDescending(f => f.Example.Length).Take(Most)];
    }

    /// <summary>What an element could be called by: its name and class, or its place in something that has one.</summary>
    private static string? SelectorOf(IElement element)
    {
        if (KnownWithout.Contains(element.LocalName) || (Never.Contains(element.LocalName) && !(element.LocalName == "a" && element.ClassList.Length > 0)))
        {
            return null;
        }

        if (Shared(element) is { } own)
        {
            return $"{element.LocalName}.{Escaped(own)}";
        }

        return element.ParentElement is { ClassList.Length: > 0 } around && IsRepeated(element)
            ? $"{around.LocalName}.{Escaped(around.ClassList[0]!)} > {element.LocalName}"
            : element.LocalName == "article" && IsRepeated(element) ? "article" : null;
    }

    private static bool IsRepeated(IElement element) => element.ParentElement!.Children.Count(c => c.LocalName == element.LocalName) > 1;

    /// <summary>The class that most of its neighbours have, too; among several the one that its neighbours have all.</summary>
    private static string? Shared(IElement element)
    {
        var beside = element.ParentElement!.Children.Where(c => c != element && c.LocalName == element.LocalName).ToList();
        var best = element.ClassList.Select(c => (Class: c, Count: beside.Count(b => b.ClassList.Contains(c)))).Where(c => c.Count > 0)
            .OrderByDescending(c => c.Count).ToList();
        return best.Count == 0 ? null : best[0].Class;
    }

    private static string Escaped(string name) =>
        string.Concat(name.Select((c, at) => char.IsAsciiLetter(c) || c is '-' or '_' || c >= 0x80 || (at > 0 && char.IsAsciiDigit(c)) ? c.ToString()
            : char.IsAsciiDigit(c) ? $"\\{(int)c:x} " : "\\" + c));

    private static FoundEntries? Weighed(IDocument page, string selector, Func<string, bool> isItem, Func<string, bool> leads)
    {
        var entries = page.QuerySelectorAll(selector).ToList();
        var about = entries.Select(e => AboutOf(e, leads)).ToList();
        var different = about.OfType<string>().Distinct(StringComparer.Ordinal).Count();
        // An entry in an entry, or several that lead to the same page, are parts of something.
        var inside = entries.Count(e => e.ParentElement?.Closest(selector) is not null);
        if (entries.Count < 2 || different < 2 || inside > 0 || different * 10 < entries.Count * 7)
        {
            return null;
        }

        // One that holds several linked pages of the catalogue is the list, not the entry.
        var crowded = entries.Count(e => e.QuerySelectorAll("a[href]").Select(a => a.GetAttribute("href")!).Where(isItem)
            .Distinct(StringComparer.Ordinal).Count() > 3);
        if (crowded * 2 > entries.Count)
        {
            return null;
        }

        var first = entries[0];
        var draft = new EntryDraft { Sort = "card", Entry = selector, Price = PriceIn(entries) };
        return new FoundEntries(draft, entries.Count, about.Count(a => a is not null && isItem(a)), Cut(WordsOf(first)));
    }

    /// <summary>What an entry is about: where its first link leads.</summary>
    public static string? AboutOf(IElement entry, Func<string, bool> leads) =>
        (entry.LocalName == "a" ? [entry, .. entry.QuerySelectorAll("a[href]")] : entry.QuerySelectorAll("a[href]").AsEnumerable())
            .Select(a => a.GetAttribute("href")).FirstOrDefault(href => href is not null && leads(href));

    /// <summary>What looks like a price in most of the entries: the innermost element with a number and the sign of a currency, by its class.</summary>
    private static string? PriceIn(List<IElement> entries)
    {
        var classes = entries.SelectMany(e => e.QuerySelectorAll("*").Where(p => p.ClassList.Length > 0 && p.TextContent.Length < 40
                && (Amounts.StandsIn(p.TextContent) || p.ClassList.Any(c => c.Contains("price", StringComparison.OrdinalIgnoreCase))))
            .Where(p => !p.QuerySelectorAll("*").Any(inner => inner.ClassList.Length > 0 && Amounts.StandsIn(inner.TextContent)))
            .Select(p => p.ClassList[0]!).Distinct(StringComparer.Ordinal)).GroupBy(c => c, StringComparer.Ordinal).OrderByDescending(g => g.Count()).ToList();
        return classes.Count > 0 && classes[0].Count() * 2 >= entries.Count ? "." + Escaped(classes[0].Key) : null;
    }

    /// <summary>The words of an element, where those of two parts do not run into one.</summary>
    public static string WordsOf(IElement element) => string.Join(' ', element.Descendants<IText>().Select(t => t.Data));

    private static string Cut(string text)
    {
        var plain = Blanks().Replace(text, " ").Trim();
        return plain.Length > MostWords ? plain[..MostWords] + "…" : plain;
    }

    /// <summary>Finds lists in data, those first that are about the most items.</summary>
    /// <param name="json">The data.</param>
    /// <param name="isItem">Whether an address leads to something that the catalogue has.</param>
    /// <param name="itemOf">The name of the item whose key is a value, such as <c>product:x</c>; null for none.</param>
    public static IReadOnlyList<FoundEntries> InData(byte[] json, Func<string, bool> isItem, Func<string, string?> itemOf) =>
        JsonTree.Read(json, false) is { } tree ? InTree(tree, null, isItem, itemOf) : [];

    /// <summary>The items that entries of data name by their keys, such as <c>product:x</c>; each once.</summary>
    public static IReadOnlyList<string> NamedInData(byte[] json, Func<string, string?> itemOf)
    {
        if (JsonTree.Read(JsonSieve.PlainOf(json).ToArray(), false) is not { } tree)
        {
            return [];
        }

        var named = new HashSet<string>(StringComparer.Ordinal);
        foreach (var found in InTree(tree, null, _ => false, itemOf).Where(f => f.Draft.About is not null))
        {
            var rule = (found.Draft with { Key = "found", At = ["/"] }).Read();
            named.UnionWith(rule.IsGood ? JsonLook.At(json, rule.Value.Data!)?.SelectMany(e => e.About) ?? [] : []);
        }

        return [.. named];
    }

    /// <summary>Finds data in a script that names itself: <c>NAME = {…}</c>, <c>NAME([…])</c>.</summary>
    public static IReadOnlyList<FoundEntries> InScript(string script, Func<string, bool> isItem, Func<string, string?> itemOf)
    {
        var found = new List<FoundEntries>();
        foreach (Match begin in Begins().Matches(script))
        {
            var rest = System.Text.Encoding.UTF8.GetBytes(script[begin.Groups["data"].Index..]);
            if (JsonTree.Read(rest, true) is { Count: > 3 } tree)
            {
                found.AddRange(InTree(tree, begin.Groups["name"].Value, isItem, itemOf));
            }
        }

        return [.. found.OrderByDescending(f => f.Items).Take(Most)];
    }

    private static List<FoundEntries> InTree(JsonTree tree, string? behind, Func<string, bool> isItem, Func<string, string?> itemOf)
    {
        var found = new List<FoundEntries>();
        foreach (var list in Enumerable.Range(0, tree.Count).Where(at => tree[at].Kind == System.Text.Json.JsonTokenType.StartArray))
        {
            var entries = tree.Inside(list).Where(e => tree[e].Kind == System.Text.Json.JsonTokenType.StartObject).ToList();
            if (entries.Count < 2 || Weighed(tree, list, entries, behind, isItem, itemOf) is not { } weighed || found.Exists(f => f.Draft == weighed.Draft))
            {
                continue;
            }

            found.Add(weighed);
        }

        return [.. found.OrderByDescending(f => f.Items).ThenByDescending(f => f.Count).Take(Most)];
    }

    private static FoundEntries? Weighed(
        JsonTree tree, int list, List<int> entries, string? behind, Func<string, bool> isItem, Func<string, string?> itemOf)
    {
        var members = entries.SelectMany(e => tree.Inside(e)).Where(m => tree.PlainOf(m) is not null).ToList();
        var linked = members.Count(m => isItem(tree.PlainOf(m)!));
        var named = members.Select(m => (Name: tree[m].Name!, Item: itemOf(tree.PlainOf(m)!))).Where(m => m.Item is not null)
            .GroupBy(m => (m.Name, Kind: m.Item!.Split(':')[0])).OrderByDescending(g => g.Count()).FirstOrDefault();
        var byName = named is not null && named.Count() > linked;
        if (Math.Max(linked, named?.Count() ?? 0) is var items && items == 0)
        {
            return null;
        }

        var price = tree.Inside(entries[0]).Select(m => tree[m].Name!).FirstOrDefault(n => n.Contains("price", StringComparison.OrdinalIgnoreCase)
            || n.Contains("amount", StringComparison.OrdinalIgnoreCase));
        var draft = new EntryDraft
        {
            Sort = "data",
            Entry = PathOf(tree, list) + "[*]",
            Behind = behind,
            About = byName ? $"{named!.Key.Kind}:{{{named.Key.Name}}}" : null,
            Price = price is null ? null : "@" + Step(price),
        };
        return new FoundEntries(draft, entries.Count, Math.Min(items, entries.Count), Cut(tree.RawOf(entries[0])));
    }

    /// <summary>The path of a list, where a place in another list stands for any.</summary>
    private static string PathOf(JsonTree tree, int at) => tree[at].Parent is >= 0 and var around
        ? PathOf(tree, around) + (tree[at].Name is { } name ? Step(name) : "[*]") : "$";

    private static string Step(string name) => PlainName().IsMatch(name) ? "." + name : "['" + name.Replace("\\", @"\\").Replace("'", "\\'") + "']";

    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();

    [GeneratedRegex(@"(?<![\w$.])(?<name>[A-Za-z_$][\w$]*(?:\.[A-Za-z_$][\w$]*)*)\s*[=(]\s*(?<data>[\[{])")]
    private static partial Regex Begins();

    [GeneratedRegex("^[A-Za-z_][A-Za-z0-9_]*$")]
    private static partial Regex PlainName();
}
