namespace WarySentinel.Core.Catalogue;

/// <summary>Something that a sitemap, a feed or the site itself told of.</summary>
/// <param name="Address">Its path and query on the site; null for a category known by name alone.</param>
/// <param name="Kind">What it is; null where the source doesn't say.</param>
/// <param name="Title">What people call it; null where the source doesn't say.</param>
/// <param name="Key">A name that the source gives it, such as a stock code.</param>
/// <param name="ParentAddresses">Addresses of what it stands beneath.</param>
/// <param name="ParentTitles">Categories it stands in, by name.</param>
public sealed record DiscoveredItem(
    string? Address, ItemKind? Kind, string? Title, string? Key = null, IReadOnlyList<string>? ParentAddresses = null,
    IReadOnlyList<string>? ParentTitles = null);

/// <summary>What a pattern of addresses stands for, where the source doesn't say: <c>/product/* = product</c>.</summary>
public sealed record KindRule(Address Pattern, ItemKind Kind)
{
    /// <summary>Reads <c>/product/*=product</c>; null with a fault where it is none.</summary>
    public static KindRule? Read(string text, ICollection<Fault> faults)
    {
        var at = text.LastIndexOf('=');
        if (at > 0 && ItemId.TryKind(text[(at + 1)..].Trim(), out var kind) && kind != ItemKind.Site
            && Catalogue.Address.TryParse(text[..at].Trim(), out var pattern, out _))
        {
            return new KindRule(pattern, kind);
        }

        faults.Add(new Fault("map", Wording.Of("discover.map-form", text)));
        return null;
    }
}

/// <summary>Makes items of what was found: known ones are recognised by their address, so that nothing comes in twice.</summary>
public sealed class Discovery
{
    private readonly CatalogueGraph graph;
    private readonly IReadOnlyList<KindRule> rules;
    private readonly Dictionary<string, ItemId> byAddress = new(StringComparer.Ordinal);
    private readonly Dictionary<string, ItemId> categories = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<ItemId, ItemDraft> drafts = [];
    private readonly HashSet<ItemId> touched = [];

    private Discovery(CatalogueGraph graph, IReadOnlyList<KindRule> rules)
    {
        (this.graph, this.rules) = (graph, rules);
        byAddress["/"] = ItemId.Site;
        foreach (var item in graph.Items)
        {
            foreach (var address in item.Addresses.Where(a => !a.IsPattern))
            {
                if (Normal(address.Text) is { } key)
                {
                    byAddress[key] = item.Id;
                }
            }

            if (item.Id.Kind == ItemKind.Category)
            {
                categories.TryAdd(item.Title, item.Id);
            }
        }
    }

    /// <summary>The items as rows of an import, and known items with addresses that the source no longer names.</summary>
    /// <param name="graph">The catalogue as it is.</param>
    /// <param name="found">What the source told.</param>
    /// <param name="rules">What addresses stand for, where the source doesn't say.</param>
    /// <param name="whole">Whether the source was read to its end; else nothing counts as vanished.</param>
    /// <param name="seen">Addresses that answered, whether or not they told of anything.</param>
    public static (IReadOnlyList<ItemDraft> Rows, IReadOnlyList<ItemId> Vanished) Run(
        CatalogueGraph graph, IReadOnlyList<DiscoveredItem> found, IReadOnlyList<KindRule> rules, bool whole, IEnumerable<string>? seen = null)
    {
        var run = new Discovery(graph, rules);
        // Names first, so that parents are known whatever the order; who tells a stock code names the item.
        foreach (var one in found.Where(f => f.Address is not null).OrderByDescending(f => f.Key is not null))
        {
            run.Name(one);
        }

        foreach (var one in found)
        {
            run.Take(one);
        }

        run.PlaceByPath();
        foreach (var address in (seen ?? []).Select(run.Normal).OfType<string>())
        {
            if (run.byAddress.TryGetValue(address, out var there))
            {
                run.touched.Add(there);
            }
        }

        run.DropAncestors();
        var kinds = run.drafts.Keys.Select(id => id.Kind).ToHashSet();
        var vanished = !whole ? [] : graph.Items
            .Where(i => kinds.Contains(i.Id.Kind) && !run.touched.Contains(i.Id) && i.Addresses.Any(a => !a.IsPattern)).Select(i => i.Id).ToList();
        return ([.. run.drafts.Values], vanished);
    }

    private void Name(DiscoveredItem one)
    {
        if (Normal(one.Address!) is not { } address || byAddress.ContainsKey(address))
        {
            return;
        }

        var kind = one.Kind ?? KindOf(one.Address!);
        var last = one.Address!.Split('?')[0].TrimEnd('/').Split('/')[^1];
        var dot = last.LastIndexOf('.');
        var id = Free(kind, [Slug.Of(one.Key ?? ""), Slug.Of(dot > 0 ? last[..dot] : last), Slug.Of(one.Address!)]);
        byAddress[address] = id;
        drafts[id] = new ItemDraft(id.ToString(), one.Title ?? Pretty(last), [], [one.Address!]);
    }

    private void Take(DiscoveredItem one)
    {
        ItemId id;
        if (one.Address is null)
        {
            id = Category(one.Title!);
        }
        else if (Normal(one.Address) is not { } address)
        {
            return;
        }
        else
        {
            id = byAddress[address];
        }

        touched.Add(id);
        if (id == ItemId.Site)
        {
            return;
        }

        var draft = DraftOf(id);
        var parents = new List<string>(draft.Parents ?? []);
        foreach (var parent in (one.ParentAddresses ?? []).Select(Normal).OfType<string>())
        {
            if (byAddress.TryGetValue(parent, out var above) && above != id && above != ItemId.Site)
            {
                parents.Add(above.ToString());
            }
        }

        parents.AddRange((one.ParentTitles ?? []).Select(t => Category(t).ToString()).Where(p => p != id.ToString()));
        drafts[id] = draft with { Title = one.Title ?? draft.Title, Parents = [.. parents.Distinct()] };
    }

    /// <summary>Who stands in a shelf stands in what holds the shelf already; a listing of everything adds nothing.</summary>
    private void DropAncestors()
    {
        foreach (var (id, draft) in drafts.ToList())
        {
            if (draft.Parents is not { Count: > 1 } parents)
            {
                continue;
            }

            var known = graph.Find(id)?.Parents.Select(p => p.ToString()).ToHashSet(StringComparer.Ordinal) ?? [];
            var above = parents.SelectMany(p => Above(p, 0)).ToHashSet(StringComparer.Ordinal);
            drafts[id] = draft with { Parents = [.. parents.Where(p => known.Contains(p) || !above.Contains(p))] };
        }
    }

    private IEnumerable<string> Above(string parent, int depth)
    {
        if (depth > 20 || !ItemId.TryParse(parent, out var id))
        {
            return [];
        }

        var next = drafts.TryGetValue(id, out var draft) ? draft.Parents ?? [] : graph.Find(id)?.Parents.Select(p => p.ToString()).ToList() ?? [];
        return next.Concat(next.SelectMany(p => Above(p, depth + 1)));
    }

    /// <summary>What has no parent stands beneath the nearest item whose address is the beginning of its own.</summary>
    private void PlaceByPath()
    {
        foreach (var (id, draft) in drafts.ToList())
        {
            if (graph.PlaceOf(id) >= 0 || draft.Parents is { Count: > 0 } || draft.Addresses is not { Count: > 0 } addresses)
            {
                continue;
            }

            var path = addresses[0].Split('?')[0].TrimEnd('/');
            for (var cut = path.LastIndexOf('/'); cut > 0; cut = path.LastIndexOf('/', cut - 1))
            {
                if (Normal(path[..cut]) is { } above && byAddress.TryGetValue(above, out var parent) && parent != id && parent != ItemId.Site)
                {
                    drafts[id] = draft with { Parents = [parent.ToString()] };
                    break;
                }
            }
        }
    }

    private ItemId Category(string title)
    {
        title = title.Trim();
        if (categories.TryGetValue(title, out var known))
        {
            return known;
        }

        var id = Free(ItemKind.Category, [Slug.Of(title)]);
        drafts[id] = new ItemDraft(id.ToString(), title, [], []);
        return categories[title] = id;
    }

    private ItemDraft DraftOf(ItemId id) => drafts.TryGetValue(id, out var fresh) ? fresh : ItemDraft.Of(graph.Find(id)!);

    private ItemKind KindOf(string address) =>
        RequestPath.TryNormalise(address, graph.Rules, out var path, out _) && rules.FirstOrDefault(r => r.Pattern.Matches(path, graph.Rules)) is { } rule
            ? rule.Kind : IsFile(address) ? ItemKind.Download : ItemKind.Page;

    private static bool IsFile(string address) => Path.GetExtension(address.Split('?')[0]).ToLowerInvariant() is ".pdf" or ".zip" or ".gz" or ".tgz" or ".7z"
        or ".epub" or ".mobi" or ".mp3" or ".m4a" or ".m4b" or ".ogg" or ".opus" or ".flac" or ".wav" or ".mp4" or ".webm" or ".mov" or ".csv" or ".xlsx"
        or ".ods" or ".docx" or ".odt" or ".pptx" or ".odp" or ".iso" or ".dmg" or ".exe" or ".msi" or ".deb" or ".apk";

    private ItemId Free(ItemKind kind, string[] wanted)
    {
        foreach (var key in wanted.Where(k => CatalogueKey.IsValid(k)))
        {
            var id = new ItemId(kind, key);
            if (graph.PlaceOf(id) < 0 && !drafts.ContainsKey(id))
            {
                return id;
            }
        }

        var stem = wanted.LastOrDefault(k => CatalogueKey.IsValid(k)) ?? "item";
        stem = stem.Length > 110 ? stem[..110] : stem;
        for (var n = 2; ; n++)
        {
            var id = new ItemId(kind, $"{stem}-{n}");
            if (graph.PlaceOf(id) < 0 && !drafts.ContainsKey(id))
            {
                return id;
            }
        }
    }

    private string? Normal(string address) =>
        RequestPath.TryNormalise(address, graph.Rules, out var path, out _) ? path.Query.Length == 0 ? path.Key : path.Key + "?" + path.Query : null;

    private static string Pretty(string segment)
    {
        var words = Uri.UnescapeDataString(segment).Replace('-', ' ').Replace('_', ' ').Trim();
        return words.Length == 0 ? "/" : char.ToUpperInvariant(words[0]) + words[1..];
    }
}
