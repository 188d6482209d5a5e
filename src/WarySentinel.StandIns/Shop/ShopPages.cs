using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace WarySentinel.StandIns.Shop;

/// <summary>The pages of the stand-in shop, as strings.</summary>
public sealed class ShopPages(ShopData data)
{
    /// <summary>The start page.</summary>
    public string Home() => Frame("/", data.Name, $"""
        <section class="hero"><h1>{E(data.Name)}</h1><p>{E(data.Line)}</p><p><a class="go" href="/shop">To the shop</a></p></section>
        <section data-wary-for="signed-in">{Part(true)}</section>
        <section data-wary-for="not signed-in">{Part(false)}<wary-form name="sign-in"></wary-form></section>
        <h2>New this season</h2>{Cards(data.Products.Where(p => p.IsNew))}
        <h2>By the shelf</h2>{Shelves(data.Categories)}
        """);

    /// <summary>A listing of products.</summary>
    public string Listing(string address, string title, IEnumerable<ShopProduct> products, IEnumerable<ShopCategory> shelves, string words = "") => Frame(
        address, title, $"""
        <h1>{E(title)}</h1><p class="lead">{E(words)}</p>{Shelves(shelves)}{Cards(products)}
        {Told(Listed(address, products))}
        """);

    /// <summary>One product.</summary>
    public string Product(ShopProduct product)
    {
        var shelves = string.Join(", ",
            product.Categories.Select(key => data.Categories.First(c => c.Key == key)).Select(c => $"<a href=\"/shop/{c.Key}\">{E(c.Title)}</a>"));
        var beside = data.Products.Where(p => p != product && p.Categories.Intersect(product.Categories).Any()).Take(4);
        return Frame($"/product/{product.Key}", product.Title, $"""
            <article class="product"><div class="pic">{Picture(product)}</div><div>
            <h1>{E(product.Title)}</h1><p class="price"{Mark(product)}>{Euros(product)}</p>{Trade(product)}<p>{E(product.Words)}</p>
            <form method="post" action="/cart/add"><input type="hidden" name="product" value="{product.Key}"><button>Put in the cart</button></form>
            <p class="quiet">On the shelf: {shelves}</p></div></article>
            <h2>Beside it</h2>{Cards(beside)}
            {Told(Described(product))}{Told(Crumbs(product))}
            """);
    }

    /// <summary>What a search finds.</summary>
    public string Search(string words)
    {
        var found = words.Length == 0 ? [] : data.Products.Where(p => p.Title.Contains(words, StringComparison.OrdinalIgnoreCase)).ToList();
        var shelves = words.Length == 0 ? [] : data.Categories.Where(c => c.Title.Contains(words, StringComparison.OrdinalIgnoreCase)).ToList();
        return Frame("/search", "Search", $"<h1>Search</h1><p class=\"lead\">Looking for “{E(words)}”</p>{Shelves(shelves)}{Cards(found)}", words);
    }

    /// <summary>The cart: at the prices that its buyer is told, where somebody says them.</summary>
    public string Cart(IReadOnlyList<ShopProduct> products, CartQuote? quote, string coupon) => Frame("/cart", "Cart", products.Count == 0
        ? "<h1>Cart</h1><p class=\"lead\">There is nothing in it yet.</p>"
        : $"""
        <h1>Cart</h1><table><tbody>
        {string.Concat(products.Select(p => Line(p, quote?.Lines.FirstOrDefault(l => l.Item == "product:" + p.Key))))}</tbody></table>
        {(quote?.Discount is { } off ? $"<p>With {E(coupon)}: € {E(off)} off</p>" : "")}{(quote?.CouponFault is { } fault ? $"<p>{E(fault)}</p>" : "")}
        <p class="lead">Together: € {E(TogetherOf(products, quote))}</p>
        <form action="/cart"><label>A code <input name="code" value="{E(coupon)}"></label> <button>Count it</button></form>
        """);

    private static string TogetherOf(IReadOnlyList<ShopProduct> products, CartQuote? quote)
    {
        // What no list has a price for is at the shop's own.
        var own = products.Where(p => quote?.Lines.FirstOrDefault(l => l.Item == "product:" + p.Key)?.Price is null).Sum(p => (decimal)p.Price);
        var told = decimal.TryParse(quote?.Total, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var total) ? total : 0;
        return (own + told).ToString("N2", CultureInfo.InvariantCulture);
    }

    /// <summary>Products in boxes: the name and the price stand outside the link, and a script holds them again.</summary>
    public string Lookbook() => Frame("/lookbook", "Lookbook", $"""
        <h1>Lookbook</h1><p class="lead">The whole hill at a glance.</p>
        <div class="sheet">{string.Concat(data.Products.Select(p => $"""
        <div class="piece"><h3>{E(p.Title)}</h3><div class="price">{Euros(p)}</div><div class="more"><a href="/product/{p.Key}">Look closer</a></div></div>
        """))}</div>
        <script>window.__SHELF__ = {JsonSerializer.Serialize(data.Products.Select(p => new { title = p.Title, url = "/product/" + p.Key }))};</script>
        """);

    /// <summary>What a search in the browser reads: titles and addresses in step, and words that point at their places.</summary>
    public string SearchIndex()
    {
        var words = data.Products
            .SelectMany((p, at) => p.Title.ToLowerInvariant().Split(' ').Where(w => w.Length > 2).Distinct().Select(w => (Word: w, At: at)))
            .GroupBy(w => w.Word).OrderBy(g => g.Key, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.Select(w => w.At).ToArray());
        return "ShopSearch.load(" + JsonSerializer.Serialize(new
        { paths = data.Products.Select(p => "/product/" + p.Key), titles = data.Products.Select(p => p.Title), words }) + ")";
    }

    /// <summary>A page with links.</summary>
    public string Links(string address, string title, string words, IEnumerable<(string Title, string Address)> links) => Frame(address, title,
        $"<h1>{E(title)}</h1><p class=\"lead\">{E(words)}</p>{Lines(links)}");

    /// <summary>A page with paragraphs.</summary>
    public string Text(string address, string title, IReadOnlyList<string> words, IReadOnlyList<MenuEntry>? links) => Frame(address, title,
        $"<h1>{E(title)}</h1>{string.Concat(words.Select(w => $"<p>{E(w)}</p>"))}{(links is null ? "" : Lines(links.Select(l => (l.Words, l.Address))))}");

    /// <summary>All addresses (sitemaps.org 0.9).</summary>
    public string Sitemap(string host)
    {
        var addresses = new[] { "/", "/shop", "/shop/tag/new", "/downloads", "/hours-of-dark" }
            .Concat(data.Categories.Select(c => "/shop/" + c.Key)).Concat(data.Products.Select(p => "/product/" + p.Key))
            .Concat(data.Pages.Select(p => p.Address))
            .Concat(data.Downloads.Select(d => d.Address)).Concat(data.Episodes.Select(e => $"/hours-of-dark/{e.Number}"));
        var built = new StringBuilder("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<urlset xmlns=\"http://www.sitemaps.org/schemas/sitemap/0.9\">\n");
        foreach (var address in addresses)
        {
            built.Append(CultureInfo.InvariantCulture, $"  <url><loc>{host}{address}</loc></url>\n");
        }

        return built.Append("</urlset>\n").ToString();
    }

    /// <summary>The products as a feed (RSS 2.0).</summary>
    public string Feed(string host)
    {
        var items = string.Concat(data.Products.Select(p =>
            $"<item><title>{E(p.Title)}</title><link>{host}/product/{p.Key}</link><guid isPermaLink=\"false\">{p.Key}</guid>"
            + $"{string.Concat(p.Categories.Select(c => $"<category>{E(data.Categories.First(k => k.Key == c).Title)}</category>"))}</item>\n"));
        return "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<rss version=\"2.0\"><channel>"
            + $"<title>{E(data.Name)}</title><link>{host}/</link><description>{E(data.Line)}</description>\n{items}</channel></rss>\n";
    }

    /// <summary>A part of the start page for members, or for everybody else.</summary>
    public static string Part(bool inside) => inside
        ? "<h2>For you tonight</h2><p>The dome opens at nine. <a href=\"/members/calendar\">The whole calendar</a></p>"
        : "<h2>Join us under the dome</h2><p>Members see what is on tonight.</p>";

    private static string Told(object data) =>
        $"<script type=\"application/ld+json\">{System.Text.Json.JsonSerializer.Serialize(data)}</script>";

    private static Dictionary<string, object> Listed(string address, IEnumerable<ShopProduct> products) => new Dictionary<string, object>
    {
        ["@context"] = "https://schema.org", ["@type"] = "ItemList", ["url"] = address,
        ["itemListElement"] = products.Select((p, at) =>
        new Dictionary<string, object> { ["@type"] = "ListItem", ["position"] = at + 1, ["name"] = p.Title, ["url"] = "/product/" + p.Key }),
    };

    private static Dictionary<string, object> Described(ShopProduct product) => new Dictionary<string, object>
    {
        ["@context"] = "https://schema.org", ["@type"] = "Product", ["name"] = product.Title, ["sku"] = product.Key, ["url"] = "/product/" + product.Key,
    };

    private Dictionary<string, object> Crumbs(ShopProduct product)
    {
        var shelf = data.Categories.First(c => c.Key == product.Categories[0]);
        var above = shelf.Parent.Length > 0 ? data.Categories.First(c => c.Key == shelf.Parent) : null;
        var crumbs = new[] { ("Shop", "/shop") }.Concat(above is null ? [] : [(above.Title, "/shop/" + above.Key)])
            .Append((shelf.Title, "/shop/" + shelf.Key)).Append((product.Title, "/product/" + product.Key));
        return new Dictionary<string, object>
        {
            ["@context"] = "https://schema.org", ["@type"] = "BreadcrumbList",
            ["itemListElement"] = crumbs.Select((c, at) =>
            new Dictionary<string, object> { ["@type"] = "ListItem", ["position"] = at + 1, ["name"] = c.Item1, ["item"] = c.Item2 }),
        };
    }

    /// <summary>Mounts have a trade price; the marks say for whom, to whatever stands in front.</summary>
    private static string Trade(ShopProduct product) => !product.Categories.Contains("mounts") ? ""
        : $"<p class=\"trade\" data-wary-item=\"product:{product.Key}\" data-wary-act=\"price\">"
        + $"Trade price <b data-wary-price=\"product:{product.Key}\">€ {(product.Price * 7 / 10).ToString("N0", CultureInfo.InvariantCulture)}</b></p>"
        + $"<p class=\"quiet\" data-wary-item=\"product:{product.Key}\" data-wary-act=\"not price\">"
        + $"<a href=\"/account/sign-in?return_to=/product/{product.Key}\">Sign in</a> to see trade prices.</p>";

    private static string Line(ShopProduct product, CartQuoteLine? quoted) =>
        $"<tr><td><a href=\"/product/{product.Key}\">{E(product.Title)}</a></td>"
        + $"<td>{(quoted?.Price is { } price ? "€ " + E(price) : Euros(product))}</td></tr>";

    /// <summary>Who pays another price sees it in place of everybody's. Trade prices of mounts stand beside theirs.</summary>
    private static string Mark(ShopProduct product) =>
        product.Categories.Contains("mounts") ? "" : $" data-wary-price=\"product:{product.Key}\"";

    private static string Lines(IEnumerable<(string Title, string Address)> links) =>
        $"<ul class=\"lines\">{string.Concat(links.Select(l => $"<li><a href=\"{l.Address}\">{E(l.Title)}</a></li>"))}</ul>";

    private string Frame(string address, string title, string body, string search = "") => $"""
        <!doctype html>
        <html lang="en"><head><meta charset="utf-8"><title>{E(title)} · {E(data.Name)}</title>
        <meta name="viewport" content="width=device-width, initial-scale=1"><link rel="stylesheet" href="/shop.css">
        <link rel="alternate" type="application/json" href="/products.json" title="Products"></head>
        <body><header><a class="name" href="/">{E(data.Name)}</a>
        <form class="find" action="/search" role="search"><input name="q" value="{E(search)}" placeholder="Search the shop" aria-label="Search the shop"></form>
        <nav aria-label="Main"><ul>{Menu(data.Menu, address)}</ul></nav><wary-form name="menu"></wary-form></header>
        <main>{body}</main>
        <footer><p>{E(data.Name)} · the last light on the moor road</p></footer></body></html>
        """;

    private static string Menu(IReadOnlyList<MenuEntry> entries, string here) => string.Concat(entries.Select(entry =>
        $"<li><a href=\"{entry.Address}\"{(entry.Address == here ? " aria-current=\"page\"" : "")}>{E(entry.Words)}</a>"
        + $"{(entry.Under is { Count: > 0 } under ? $"<ul>{Menu(under, here)}</ul>" : "")}</li>\n"));

    private static string Cards(IEnumerable<ShopProduct> products) =>
        $"<ul class=\"cards\">{string.Concat(products.Select(Card))}</ul>";

    private static string Card(ShopProduct product) =>
        $"<li><a href=\"/product/{product.Key}\">{Picture(product)}<span>{E(product.Title)}</span></a>"
        + $"<span class=\"price\"{Mark(product)}>{Euros(product)}</span></li>\n";

    private static string Shelves(IEnumerable<ShopCategory> categories) =>
        $"<ul class=\"shelves\">{string.Concat(categories.Select(c => $"<li><a href=\"/shop/{c.Key}\">{E(c.Title)}</a><p>{E(c.Words)}</p></li>\n"))}</ul>";

    private static string Picture(ShopProduct product)
    {
        var seed = product.Key.Aggregate(17, (sum, c) => ((sum * 31) + c) & 0xffff);
        var (hue, size, x, y) = (seed % 360, 18 + (seed % 23), 30 + (seed % 60), 26 + (seed / 7 % 40));
        return $"<svg viewBox=\"0 0 120 90\" aria-hidden=\"true\"><rect width=\"120\" height=\"90\" fill=\"hsl({hue} 24% 15%)\"/>"
            + $"<circle cx=\"{x}\" cy=\"{y}\" r=\"{size}\" fill=\"none\" stroke=\"hsl({hue} 38% 62%)\" stroke-width=\"2\"/>"
            + $"<circle cx=\"{x}\" cy=\"{y}\" r=\"{size / 2}\" fill=\"hsl({hue} 42% 44%)\"/>"
            + $"<circle cx=\"{110 - (seed % 30)}\" cy=\"{12 + (seed % 9)}\" r=\"1.6\" fill=\"#fff\"/></svg>";
    }

    private static string Euros(ShopProduct product) => $"€ {product.Price.ToString("N0", CultureInfo.InvariantCulture)}";

    private static string E(string text) =>
        HtmlEncoder.Default.Encode(text).Replace("&#x2019;", "’", StringComparison.Ordinal).Replace("&#x2013;", "–", StringComparison.Ordinal);
}
