using System.Text.Json;
using AngleSharp.Dom;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>What a page says of itself in schema.org terms.</summary>
internal sealed class StructuredData
{
    private readonly Func<string, string?> site;
    private readonly string page;
    private readonly List<(string Name, string? Address)> crumbs = [];

    private StructuredData(string page, Func<string, string?> site) => (this.page, this.site) = (page, site);

    /// <summary>Products, with their titles and stock codes.</summary>
    public List<DiscoveredItem> Products { get; } = [];

    /// <summary>Where the page stands: the crumbs before its own, outermost first.</summary>
    public IReadOnlyList<(string Name, string? Address)> Crumbs => crumbs;

    /// <summary>What the page lists.</summary>
    public List<(string? Name, string Address)> Listed { get; } = [];

    /// <summary>Whether it lists items as an <c>ItemList</c>.</summary>
    public bool IsListing { get; private set; }

    /// <summary>Reads JSON-LD 1.1 and HTML microdata of a page.</summary>
    /// <param name="document">The page.</param>
    /// <param name="page">Its path on the site.</param>
    /// <param name="site">Gives the path on the site that an address stands for.</param>
    public static StructuredData Of(IDocument document, string page, Func<string, string?> site)
    {
        var data = new StructuredData(page, site);
        foreach (var script in document.QuerySelectorAll("script[type='application/ld+json']"))
        {
            try
            {
                using var json = JsonDocument.Parse(script.TextContent, new JsonDocumentOptions
                { AllowTrailingCommas = true, CommentHandling = JsonCommentHandling.Skip });
                data.Node(json.RootElement, 0);
            }
            catch (JsonException)
            {
                // A page with a broken block may have a good one beside it.
            }
        }

        data.Microdata(document);
        return data;
    }

    private void Node(JsonElement node, int depth)
    {
        if (depth > 8)
        {
            return;
        }

        if (node.ValueKind == JsonValueKind.Array)
        {
            foreach (var one in node.EnumerateArray())
            {
                Node(one, depth + 1);
            }

            return;
        }

        if (node.ValueKind != JsonValueKind.Object)
        {
            return;
        }

        if (node.TryGetProperty("@graph", out var graph))
        {
            Node(graph, depth + 1);
        }

        if (IsA(node, "Product"))
        {
            Product(Text(node, "name"), Text(node, "sku") ?? Text(node, "productID"), Text(node, "url") ?? Text(node, "@id"));
        }
        else if (IsA(node, "BreadcrumbList"))
        {
            Trail(Entries(node).Select(e => (Text(e, "name") ?? Inner(e, "name"), Text(e, "item") ?? Inner(e, "@id") ?? Inner(e, "url"))));
        }
        else if (IsA(node, "ItemList"))
        {
            IsListing = true;
            foreach (var entry in Entries(node))
            {
                List(Text(entry, "name") ?? Inner(entry, "name"), Text(entry, "url") ?? Text(entry, "item") ?? Inner(entry, "url") ?? Inner(entry, "@id"));
            }
        }
        else if (node.TryGetProperty("mainEntity", out var main))
        {
            Node(main, depth + 1);
        }
    }

    private void Microdata(IDocument document)
    {
        foreach (var scope in document.QuerySelectorAll("[itemscope][itemtype]"))
        {
            var type = scope.GetAttribute("itemtype")!.Split('/')[^1];
            switch (type)
            {
                case "Product" when scope.GetAttribute("itemprop") is null or "mainEntity":
                    Product(Prop(scope, "name"), Prop(scope, "sku") ?? Prop(scope, "productID"), Prop(scope, "url"));
                    break;
                case "BreadcrumbList":
                    Trail(scope.QuerySelectorAll("[itemprop='itemListElement']").Select(e => (Prop(e, "name"), Prop(e, "item"))));
                    break;
                case "ItemList":
                    IsListing = true;
                    foreach (var entry in scope.QuerySelectorAll("[itemprop='itemListElement']"))
                    {
                        List(Prop(entry, "name"), Prop(entry, "url") ?? Prop(entry, "item") ?? entry.GetAttribute("href"));
                    }

                    break;
                default:
                    break;
            }
        }
    }

    private void Product(string? name, string? key, string? url)
    {
        var address = site(url ?? "") ?? page;
        if (Products.TrueForAll(p => p.Address != address))
        {
            Products.Add(new DiscoveredItem(address, ItemKind.Product, Short(name), key));
        }
    }

    private void Trail(IEnumerable<(string? Name, string? Address)> trail)
    {
        if (crumbs.Count == 0)
        {
            // The last crumb is the page itself; the start page is the site.
            crumbs.AddRange(trail.Where(c => c.Name is not null).Select(c => (Short(c.Name)!, site(c.Address ?? ""))).Where(c => c.Item2 != "/"));
        }
    }

    private void List(string? name, string? url)
    {
        if (site(url ?? "") is { } address && Listed.TrueForAll(l => l.Address != address))
        {
            Listed.Add((Short(name), address));
        }
    }

    private static string? Short(string? text) => text is null ? null : text.Length > 300 ? text[..300] : text;

    private static bool IsA(JsonElement node, string type) => node.TryGetProperty("@type", out var said) && said.ValueKind switch
    {
        JsonValueKind.String => Is(said, type),
        JsonValueKind.Array => said.EnumerateArray().Any(s => Is(s, type)),
        _ => false,
    };

    private static bool Is(JsonElement said, string type) => said.ValueKind == JsonValueKind.String && said.GetString()!.Split('/', ':')[^1] == type;

    private static IEnumerable<JsonElement> Entries(JsonElement node) =>
        node.TryGetProperty("itemListElement", out var list) ? list.ValueKind == JsonValueKind.Array
            ? list.EnumerateArray().Where(e => e.ValueKind is JsonValueKind.Object or JsonValueKind.String) : [list] : [];

    private static string? Text(JsonElement node, string name) => node.ValueKind == JsonValueKind.String ? (name == "url" ? node.GetString() : null)
        : node.ValueKind == JsonValueKind.Object && node.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String
        && value.GetString()!.Trim() is { Length: > 0 } text ? text : null;

    private static string? Inner(JsonElement node, string name) =>
        node.ValueKind == JsonValueKind.Object && node.TryGetProperty("item", out var item) && item.ValueKind == JsonValueKind.Object ? Text(item, name) : null;

    private static string? Prop(IElement scope, string name)
    {
        var element = scope.QuerySelector($"[itemprop~='{name}']");
        var value = element?.GetAttribute("content") ?? element?.GetAttribute("href") ?? element?.TextContent;
        return value?.Trim() is { Length: > 0 } text ? text : null;
    }
}
