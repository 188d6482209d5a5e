using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Markup;

namespace WarySentinel.Core.Entries;

/// <summary>A rule of entries as people write it.</summary>
public sealed record EntryDraft
{
    /// <summary>The names of the two sorts: elements of pages, values of data.</summary>
    public static readonly IReadOnlyList<string> Sorts = ["card", "data"];

    private const int MostAddresses = 20;
    private const int MostPaths = 20;
    private const int Longest = 500;

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>The addresses that it is for: paths or path patterns.</summary>
    public IReadOnlyList<string>? At { get; init; }

    /// <summary><c>card</c> or <c>data</c>; told by the entry unless said: a JSONPath begins with <c>$</c>.</summary>
    public string? Sort { get; init; }

    /// <summary>Which one is an entry: a CSS selector, or a JSONPath.</summary>
    public string? Entry { get; init; }

    /// <summary>Of a card: a CSS selector of what in it says what it is about; its first link unless said.</summary>
    public string? Link { get; init; }

    /// <summary>What in an entry goes where the price is guarded: a CSS selector, or a JSONPath from the entry (<c>@.price</c>).</summary>
    public string? Price { get; init; }

    /// <summary>Of data: the item or address that an entry is about, such as <c>product:{sku}</c>; the addresses in it unless said.</summary>
    public string? About { get; init; }

    /// <summary>Of data: the name in a script behind which it stands, or <c>#</c> and the id of a script that is data.</summary>
    public string? Behind { get; init; }

    /// <summary>Of data: whether entries are emptied and keep their places.</summary>
    public bool? Blank { get; init; }

    /// <summary>Of data that is emptied: lists in step with the entries.</summary>
    public IReadOnlyList<string>? Beside { get; init; }

    /// <summary>Of data that is emptied: numbers that are places of entries.</summary>
    public IReadOnlyList<string>? Points { get; init; }

    /// <summary>The draft that says what a rule says.</summary>
    public static EntryDraft Of(EntryRule rule) => new()
    {
        Key = rule.Key,
        At = [.. rule.At.Select(a => a.Text)],
        Sort = rule.Data is null ? "card" : "data",
        Entry = rule.Card?.Entry.Text ?? rule.Data?.Entries.Text,
        Link = rule.Card?.Link?.Text,
        Price = rule.Card?.Price?.Text ?? rule.Data?.Price?.Text,
        About = rule.Data?.About,
        Behind = rule.Data?.Behind,
        Blank = rule.Data is { IsBlanked: true } ? true : null,
        Beside = rule.Data is { Beside.Count: > 0 } ? [.. rule.Data.Beside.Select(p => p.Text)] : null,
        Points = rule.Data is { Points.Count: > 0 } ? [.. rule.Data.Points.Select(p => p.Text)] : null,
    };

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<EntryRule> Read()
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var at = ReadAddresses(faults);
        var sort = string.IsNullOrWhiteSpace(Sort) ? (Entry?.TrimStart().StartsWith('$') == true ? "data" : "card") : Sort;
        if (!Sorts.Contains(sort))
        {
            faults.Bad("sort", "not-one-of", Sort, string.Join(", ", Sorts));
        }

        var (card, data) = sort == "data" ? ((TaughtEntry?)null, ReadData(faults)) : (ReadCard(faults), null);
        return faults.Any ? faults.ToProblem("entry-invalid") : new EntryRule { Key = Key!, At = at, Card = card, Data = data };
    }

    private List<Address> ReadAddresses(Faults faults)
    {
        var read = new List<Address>();
        foreach (var text in At ?? [])
        {
            if (!Address.TryParse(text, out var address, out var reason))
            {
                faults.Take("at", Problem.In("at", "entry-address", text, reason));
                continue;
            }

            read.Add(address);
        }

        faults.Unless(At is { Count: > 0 and <= MostAddresses }, "at", "entry-nowhere", MostAddresses);
        return read;
    }

    private TaughtEntry? ReadCard(Faults faults)
    {
        foreach (var (field, said) in new[] { ("about", About), ("behind", Behind) })
        {
            faults.Unless(string.IsNullOrWhiteSpace(said), field, "entry-only-data");
        }

        faults.Unless(Blank is not true && Beside is null or { Count: 0 } && Points is null or { Count: 0 }, "blank", "entry-only-data");
        var entry = CssSelectorOf("entry", Entry, faults, true);
        var (link, price) = (CssSelectorOf("link", Link, faults, false), CssSelectorOf("price", Price, faults, false));
        return entry is null ? null : new TaughtEntry(entry, link, price);
    }

    private static CssSelector? CssSelectorOf(string field, string? text, Faults faults, bool isNeeded)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            faults.Unless(!isNeeded, field, "entry-needed");
            return null;
        }

        if (text.Length > Longest)
        {
            faults.Bad(field, "entry-long", Longest);
            return null;
        }

        var read = CssSelector.TryParse(text, out var fault, out var column);
        if (read is null)
        {
            faults.BadAt(field, fault, 1, column, text);
        }

        return read;
    }

    private JsonEntries? ReadData(Faults faults)
    {
        faults.Unless(string.IsNullOrWhiteSpace(Link), "link", "entry-only-card");
        var entries = PathOf("entry", Entry, '$', faults, true);
        var price = PathOf("price", Price, '@', faults, false);
        faults.Unless(price?.GoesInside != false, "price", "entry-price-inside");
        var about = string.IsNullOrWhiteSpace(About) ? null : About.Trim();
        if (about is not null && (about.Length > Longest || JsonEntries.NamesIn(about) is not { Count: > 0 } names
            || names.Any(n => n != "." && JsonPath.TryParse("@." + n, '@', out _) is null)))
        {
            faults.Bad("about", "entry-about", about);
        }

        var behind = string.IsNullOrWhiteSpace(Behind) ? null : Behind.Trim();
        faults.Unless(behind is null || (behind.Length is > 1 and <= 200 && PlainText.IsClean(behind)), "behind", "entry-behind", behind);
        var (beside, points) = (PathsOf("beside", Beside, faults), PathsOf("points", Points, faults));
        faults.Unless(Blank is true || (beside.Count == 0 && points.Count == 0), "blank", "entry-blank");
        return entries is null ? null : new JsonEntries(entries, about, price, Blank is true, beside, points) { Behind = behind };
    }

    private static List<JsonPath> PathsOf(string field, IReadOnlyList<string>? texts, Faults faults)
    {
        faults.Unless(texts is null or { Count: <= MostPaths }, field, "entry-many", MostPaths);
        return [.. (texts ?? []).Take(MostPaths).Select(t => PathOf(field, t, '$', faults, true)).OfType<JsonPath>()];
    }

    private static JsonPath? PathOf(string field, string? text, char root, Faults faults, bool isNeeded)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            faults.Unless(!isNeeded, field, "entry-needed");
            return null;
        }

        var read = JsonPath.TryParse(text, root, out var column);
        if (read is null)
        {
            faults.BadAt(field, "entry-path", 1, column, text.Length > 60 ? text[..60] + "…" : text, root);
        }

        return read;
    }
}
