using System.Text;
using Microsoft.AspNetCore.ResponseCompression;

namespace WarySentinel.StandIns.Shop;

/// <summary>A plain shop, rendered on the server: home, categories, products, search, cart, members' pages, a sitemap.</summary>
public static class ShopSite
{
    /// <summary>Builds the shop.</summary>
    /// <param name="folder">The folder with <c>shop.json</c> and <c>shop.css</c>.</param>
    /// <param name="listen">The address to listen on.</param>
    /// <param name="quotes">Says what carts cost; nobody unless said.</param>
    public static WebApplication Build(string folder, string listen, ShopQuotes? quotes = null)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls(listen).ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
        builder.Logging.ClearProviders();
        builder.Services.AddResponseCompression(compression =>
        {
            compression.EnableForHttps = true;
            compression.MimeTypes = ResponseCompressionDefaults.MimeTypes;
        });
        var app = builder.Build();
        app.UseResponseCompression();
        var data = ShopData.Read(Path.Combine(folder, "shop.json"));
        var pages = new ShopPages(data);
        app.MapGet("/", () => Html(pages.Home()));
        app.MapGet("/shop", () => Html(pages.Listing("/shop", "Shop", data.Products, data.Categories.Where(c => c.Parent.Length == 0))));
        app.MapGet("/shop/tag/new", () => Html(pages.Listing("/shop/tag/new", "New this season", data.Products.Where(p => p.IsNew), [])));
        app.MapGet("/shop/{key}", (string key) => data.Categories.FirstOrDefault(c => c.Key.Equals(key, StringComparison.OrdinalIgnoreCase)) is { } category
            ? Html(pages.Listing("/shop/" + category.Key, category.Title, data.Products.Where(p => p.Categories.Contains(category.Key)),
            data.Categories.Where(c => c.Parent == category.Key), category.Words))
            : Missing(pages));
        app.MapGet("/product/{key}", (string key) => data.Products.FirstOrDefault(p => p.Key.Equals(key, StringComparison.OrdinalIgnoreCase)) is { } product
            ? Html(pages.Product(product)) : Missing(pages));
        app.MapGet("/search", (string? q) => Html(pages.Search(q ?? "")));
        app.MapGet("/cart", async (HttpContext http, string? code) =>
        {
            var (products, member) = (CartOf(http, data), http.Request.Headers["X-Wary-Member"].ToString());
            var typed = string.IsNullOrWhiteSpace(code) ? null : code;
            var quote = quotes is null ? null : await quotes.AskAsync(member.Length == 0 ? null : member, products, typed, http.RequestAborted);
            return Html(pages.Cart(products, quote, typed ?? ""));
        });
        app.MapPost("/cart/add", async (HttpContext http) =>
        {
            var form = await http.Request.ReadFormAsync();
            var kept = CartOf(http, data).Select(p => p.Key).Append(form["product"].ToString()).Distinct();
            http.Response.Cookies.Append("cart", string.Join('.', kept), new CookieOptions { HttpOnly = true, SameSite = SameSiteMode.Lax });
            return Results.Redirect("/cart");
        });
        app.MapGet("/downloads", () =>
            Html(pages.Links("/downloads", "Downloads", "Free to members of the hill.", data.Downloads.Select(d => (d.Title, d.Address)))));
        app.MapGet("/files/{name}", (string name) => data.Downloads.FirstOrDefault(d => d.Address == "/files/" + name) is { } file
            ? Results.Bytes(Encoding.UTF8.GetBytes($"{file.Title}, from {data.Name}.\n"), "application/octet-stream", name) : Missing(pages));
        app.MapGet("/hours-of-dark", () =>
            Html(pages.Links("/hours-of-dark", "Hours of Dark", "A show a month, recorded under the dome.",
            data.Episodes.Select(e => ($"{e.Number}. {e.Title}", $"/hours-of-dark/{e.Number}")))));
        app.MapGet("/hours-of-dark/{number:int}", (int number) => data.Episodes.FirstOrDefault(e => e.Number == number) is { } episode
            ? Html(pages.Text($"/hours-of-dark/{number}", episode.Title, [$"Episode {number} of Hours of Dark."], null)) : Missing(pages));
        foreach (var page in data.Pages)
        {
            app.MapGet(page.Address, () => Html(pages.Text(page.Address, page.Title, page.Words, page.Links)));
        }

        // A view for printers, forgotten when the page was closed.
        foreach (var page in data.Pages.Where(p => p.Address == "/members/coordinates"))
        {
            app.MapGet("/print" + page.Address, () => Html(pages.Text("/print" + page.Address, page.Title, page.Words, null)));
        }

        app.MapGet("/sitemap.xml", (HttpContext http) =>
            Results.Text(pages.Sitemap($"{http.Request.Scheme}://{http.Request.Host}"), "application/xml", Encoding.UTF8));
        app.MapGet("/feed.xml", (HttpContext http) =>
            Results.Text(pages.Feed($"{http.Request.Scheme}://{http.Request.Host}"), "application/rss+xml", Encoding.UTF8));
        // What the shop's quick search reads: every product, whoever asks.
        app.MapGet("/products.json", () => Results.Json(data.Products.Select(p => new { title = p.Title, address = "/product/" + p.Key })));
        // A catalogue to leaf through, made of boxes; data for its own programs, as answers and in scripts.
        app.MapGet("/lookbook", () => Html(pages.Lookbook()));
        app.MapGet("/api/products", () => Results.Json(new { products = data.Products.Select(p => new { sku = p.Key, name = p.Title, price = p.Price }) }));
        app.MapGet("/search-index.js", () => Results.Text(pages.SearchIndex(), "text/javascript", Encoding.UTF8));
        app.MapGet("/parts/tonight.html", () => Results.Text(ShopPages.Part(true), "text/html", Encoding.UTF8));
        app.MapGet("/parts/join.html", () => Results.Text(ShopPages.Part(false), "text/html", Encoding.UTF8));
        app.MapGet("/robots.txt", () => "User-agent: *\nDisallow: /cart\nDisallow: /search\n");
        app.MapGet("/shop.css", () => Results.File(Path.GetFullPath(Path.Combine(folder, "shop.css")), "text/css"));
        app.MapFallback(() => Missing(pages));
        return app;
    }

    private static IResult Html(string page) => Results.Text(page, "text/html", Encoding.UTF8);

    private static IResult Missing(ShopPages pages) =>
        Results.Text(pages.Text("", "Nothing here", ["The page has moved, or never was."], null), "text/html", Encoding.UTF8, 404);

    private static List<ShopProduct> CartOf(HttpContext http, ShopData data) =>
        [.. (http.Request.Cookies["cart"] ?? "").Split('.').Select(key => data.Products.FirstOrDefault(p => p.Key == key)).OfType<ShopProduct>()];
}
