using System.Text;
using System.Text.Json;

namespace WarySentinel.Core.Markup;

/// <summary>Entries in JSON, as the owner taught them: which values are one, and what each is about.</summary>
/// <param name="Entries">Selects the entries.</param>
/// <param name="About">
/// The name of the item, or the address, that an entry is about: <c>product:{sku}</c>, <c>/books/{id}.html</c>, <c>{.}</c> for an entry that is a text. Null
/// for the addresses that stand in it.
/// </param>
/// <param name="Price">Selects, in an entry, what goes where its price is guarded.</param>
/// <param name="IsBlanked">Whether an entry is emptied in place of being taken out, so that those behind it keep their places.</param>
/// <param name="Beside">Lists in step with the entries: what stands at the place of one that goes is emptied with it.</param>
/// <param name="Points">Numbers that are places of entries: one that points at an entry that goes, goes too.</param>
public sealed record JsonEntries(
    JsonPath Entries, string? About, JsonPath? Price, bool IsBlanked, IReadOnlyList<JsonPath> Beside, IReadOnlyList<JsonPath> Points)
{
    /// <summary>Data for search engines (JSON-LD 1.1): any object that names something hidden.</summary>
    internal static readonly JsonEntries Anything = new(JsonPath.TryParse("$..*", '$', out _)!, null, null, false, [], []);

    /// <summary>The name that stands in a script before the data: <c>Search.setIndex</c>, <c>window.__DATA__</c>; null where the answer is the data.</summary>
    public string? Behind { get; init; }

    /// <summary>What a template asks for; null where a brace has no end.</summary>
    public static IReadOnlyList<string>? NamesIn(string template)
    {
        var names = new List<string>();
        for (var at = template.IndexOf('{', StringComparison.Ordinal); at >= 0; at = template.IndexOf('{', at + 1))
        {
            var end = template.IndexOf('}', at);
            if (end < 0 || end == at + 1)
            {
                return null;
            }

            names.Add(template[(at + 1)..end]);
        }

        return names;
    }

    /// <summary>Takes out of JSON what is hidden.</summary>
    internal void Sift(JsonTree tree, IMarkupDecider decider)
    {
        var entries = ReferenceEquals(this, Anything) ? [.. Enumerable.Range(0, tree.Count)] : Entries.Select(tree, tree.Outermost());
        var gone = new HashSet<int>();
        foreach (var entry in entries)
        {
            var about = AboutOf(tree, entry);
            if (about.Exists(a => decider.OfNamed(a) == Fate.Drop))
            {
                gone.Add(tree[entry].Place);
                Remove(tree, entry);
            }
            else if (Price is not null && about.Exists(a => !decider.ShowsPrice(a)))
            {
                Price.Select(tree, [entry]).ToList().ForEach(tree.Drop);
            }
        }

        DropAddresses(tree, decider);
        if (gone.Count > 0)
        {
            var beside = Beside.SelectMany(path => path.Select(tree, tree.Outermost())).SelectMany(tree.Inside);
            foreach (var other in beside.Where(o => gone.Contains(tree[o].Place)).ToList())
            {
                Remove(tree, other);
            }

            foreach (var path in Points)
            {
                Unpoint(tree, path, gone);
            }
        }
    }

    private void Remove(JsonTree tree, int at)
    {
        if (IsBlanked)
        {
            tree.Blank(at);
            return;
        }

        tree.Drop(at);
    }

    /// <summary>No address of anything hidden is left, in whatever place: the entry of the list that it stands in goes with it, else its pair.</summary>
    private static void DropAddresses(JsonTree tree, IMarkupDecider decider)
    {
        for (var at = 0; at < tree.Count; at++)
        {
            if (tree.IsGone(at))
            {
                at = tree[at].Next - 1;
                continue;
            }

            if (tree.TextOf(at) is not { } text || !MayLead(text) || decider.OfLink(text) != Fate.Drop)
            {
                continue;
            }

            var goes = at;
            for (var around = at; around >= 0; around = tree[around].Parent)
            {
                if (tree[around].Parent is >= 0 and var list && tree[list].Kind == JsonTokenType.StartArray)
                {
                    goes = around;
                    break;
                }
            }

            tree.Drop(goes);
        }
    }

    private static void Unpoint(JsonTree tree, JsonPath path, HashSet<int> gone)
    {
        var left = new Dictionary<int, int>();
        foreach (var number in path.Select(tree, tree.Outermost()))
        {
            if (tree[number].Kind != JsonTokenType.Number || !int.TryParse(tree.PlainOf(number), out var place) || !gone.Contains(place))
            {
                continue;
            }

            // A place in a pair belongs to the pair; one of a list of places goes alone, and the list with its last.
            var isPair = path.EndsInOne && tree[number].Name is null && tree[number].Parent >= 0;
            var (goes, step) = (isPair ? tree[number].Parent : number, (path.Depth ?? 0) - (isPair ? 1 : 0));
            while (!tree.IsGone(goes))
            {
                tree.Drop(goes);
                var around = tree[goes].Parent;
                if (around < 0 || !path.IsAnyAt(--step))
                {
                    break;
                }

                left[around] = left.TryGetValue(around, out var many) ? many - 1 : tree.Inside(around).Count() - 1;
                if (left[around] > 0)
                {
                    break;
                }

                goes = around;
            }
        }
    }

    /// <summary>What an entry is about: by its template, or the addresses in it.</summary>
    internal List<string> AboutOf(JsonTree tree, int entry)
    {
        if (About is not null)
        {
            return Filled(tree, entry) is { } name ? [name] : [];
        }

        var found = new List<string>();
        if (tree.TextOf(entry) is { } own)
        {
            return MayLead(own) ? [own] : found;
        }

        if (tree[entry].Kind != JsonTokenType.StartArray || (tree[entry].Name is null && tree[entry].Parent >= 0))
        {
            // A list in a list is an entry in short; one with a name holds entries.
            Gather(tree, entry, found);
        }

        return found;
    }

    /// <summary>Addresses in it, also in objects inside; what stands in lists inside is about something else.</summary>
    private static void Gather(JsonTree tree, int at, List<string> found)
    {
        foreach (var child in tree.Inside(at))
        {
            if (tree.TextOf(child) is { } text)
            {
                found.AddRange(MayLead(text) ? [text] : []);
            }
            else if (tree[child].Kind == JsonTokenType.StartObject && tree[child].Name is not null)
            {
                Gather(tree, child, found);
            }
        }
    }

    /// <summary>Whether a text is written as addresses are that lead to a page.</summary>
    private static bool MayLead(string text) => text.Length is > 0 and < 4096
        && (text[0] == '/' || text.StartsWith("http", StringComparison.OrdinalIgnoreCase) || text.StartsWith("./", StringComparison.Ordinal)
            || text.StartsWith("../", StringComparison.Ordinal) || (!text.Contains(' ', StringComparison.Ordinal)
                && text.AsSpan().IndexOfAny('/', '?', '.') > 0));

    private string? Filled(JsonTree tree, int entry)
    {
        var name = new StringBuilder(About);
        foreach (var part in NamesIn(About!) ?? [])
        {
            var value = part == "." ? tree.PlainOf(entry) : JsonPath.TryParse("@." + part, '@', out _) is { } path
                && path.Select(tree, [entry]) is [var only, ..] ? tree.PlainOf(only) : null;
            if (value is null)
            {
                return null;
            }

            name.Replace("{" + part + "}", value);
        }

        return name.ToString();
    }
}
