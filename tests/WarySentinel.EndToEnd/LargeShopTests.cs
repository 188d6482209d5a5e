using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>
/// A made-up shop of twenty thousand pages, every one of them asked for as a guest: each is, byte for byte, what the shop would have written had it known
/// what that guest may not see.
/// </summary>
public sealed class LargeShopTests : IAsyncLifetime
{
    private const int Products = 20_000;
    private const int Categories = 200;
    private readonly string origin = $"http://127.0.0.1:{RunningSite.FreePort()}";
    private readonly HashSet<int> closedCategories = [3, 50, 51, 120, 199];
    private readonly HashSet<int> closedProducts = [7, 1_000, 19_999];
    private WebApplication shop = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        shop = SmallSite.At(origin);
        shop.MapGet("/store/c{c:int}", (int c) => Results.Text(CategoryPage(c, false), "text/html", Encoding.UTF8));
        shop.MapGet("/store/p{n:int}", (int n) => Results.Text(ProductPage(n, false), "text/html", Encoding.UTF8));
        await shop.StartAsync(Stop);
        site = await RunningSite.StartAsync(origin);
        await BringInAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await shop.DisposeAsync();
    }

    [Fact]
    public async Task Every_page_is_as_the_shop_would_have_written_it_for_that_guest()
    {
        var counts = (Closed: 0, Same: 0, Less: 0);
        var pages = Enumerable.Range(0, Categories).Select(c => (IsCategory: true, Number: c))
            .Concat(Enumerable.Range(0, Products).Select(n => (IsCategory: false, Number: n)));
        using var guest = new HttpClient(new SocketsHttpHandler { UseProxy = false, AllowAutoRedirect = false, UseCookies = false });
        await Parallel.ForEachAsync(pages, new ParallelOptions { MaxDegreeOfParallelism = 16, CancellationToken = Stop }, async (page, stop) =>
        {
            var path = page.IsCategory ? $"/store/c{page.Number}" : $"/store/p{page.Number}";
            using var answer = await guest.GetAsync(site.Site + path, stop);
            if (page.IsCategory ? closedCategories.Contains(page.Number) : IsHidden(page.Number))
            {
                answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized, path);
                Interlocked.Increment(ref counts.Closed);
                return;
            }

            var written = page.IsCategory ? CategoryPage(page.Number, true) : ProductPage(page.Number, true);
            (await answer.Content.ReadAsStringAsync(stop)).ShouldBe(written, path);
            _ = written == (page.IsCategory ? CategoryPage(page.Number, false) : ProductPage(page.Number, false))
                ? Interlocked.Increment(ref counts.Same) : Interlocked.Increment(ref counts.Less);
        });
        counts.Closed.ShouldBeGreaterThan(Products / 50);
        counts.Same.ShouldBeGreaterThan(Products / 4);
        counts.Less.ShouldBeGreaterThan(Products / 50);
    }

    /// <summary>Each product stands in one category, every seventh in a second one.</summary>
    private static IEnumerable<int> CategoriesOf(int n) => n % 7 == 0 ? [n % Categories, n / 7 % Categories] : [n % Categories];

    private bool IsHidden(int n) => closedProducts.Contains(n) || n % 1_000 == 500 || CategoriesOf(n).Any(closedCategories.Contains);

    private bool Hides(int n, bool isGuest) => isGuest && IsHidden(n);

    private async Task BringInAsync()
    {
        var file = new StringBuilder("id,title,parents,addresses\n");
        for (var c = 0; c < Categories; c++)
        {
            file.Append(CultureInfo.InvariantCulture, $"category:c{c},Category {c},,/store/c{c}\n");
        }

        for (var n = 0; n < Products; n++)
        {
            var parents = string.Join('|', CategoriesOf(n).Distinct().Select(c => $"category:c{c}"));
            file.Append(CultureInfo.InvariantCulture, $"product:p{n},{TitleOf(n)},{parents},/store/p{n}\n");
        }

        var last = await site.Client.ImportAsync(new MemoryStream(Encoding.UTF8.GetBytes(file.ToString())), false, false, false, Stop).LastAsync(Stop);
        last.Stage.ShouldBe("done");
        await site.Client.AddGateAsync(new Contract.Gates.GateDraft
        {
            Key = "closed", Title = "Closed", Audience = "role:dealer", Presence = "hidden",
            Covers = [.. closedCategories.Select(c => $"category:c{c}"), .. closedProducts.Select(n => $"product:p{n}"), "path:/store/p*500"],
        }, Stop);
        await site.Client.PutEntryAsync("cards", new Contract.Entries.EntryDraft { At = ["/store/c*"], Entry = "div.card" }, Stop);
    }

    private static string TitleOf(int n) => $"Thing {n}";

    /// <summary>Cards of boxes, a menu and a pager.</summary>
    private string CategoryPage(int c, bool isGuest)
    {
        var page = new StringBuilder($"<!DOCTYPE html><html><head><title>Category {c}</title></head><body>{Menu(isGuest)}<div class=grid>");
        for (var n = c; n < 60 * Categories && n < Products; n += Categories)
        {
            page.Append(Hides(n, isGuest) ? ""
                : $"<div class=\"card\"><a href=\"/store/p{n}\"><img src=\"/i/{n}.jpg\" alt=\"\"></a><b>{TitleOf(n)}</b> € {n}</div>");
        }

        return page.Append($"</div><p>Page 1 of 2, <a href=\"?page=2\">next</a></p></body></html>").ToString();
    }

    /// <summary>A list of what goes with it, and a sentence that names one.</summary>
    private string ProductPage(int n, bool isGuest)
    {
        var (near, next) = ((n * 31) % Products, (n + 1) % Products);
        var list = string.Concat(Enumerable.Range(1, 6).Select(k => (n + (k * 37)) % Products).Where(o => !Hides(o, isGuest))
            .Select(o => $"<li><a href='/store/p{o}'>{TitleOf(o)}</a> € {o}</li>"));
        return $"<!DOCTYPE html><html><head><title>{TitleOf(n)}</title></head><body>{Menu(isGuest)}<h1>{TitleOf(n)}</h1>"
            + $"<p>It goes well with {(Hides(near, isGuest) ? TitleOf(near) : $"<a href=/store/p{near}>{TitleOf(near)}</a>")}, say those who have both.</p>"
            + $"<ul>{list}</ul><p>After it comes {(Hides(next, isGuest) ? TitleOf(next) : $"<a href=\"p{next}\">{TitleOf(next)}</a>")}.</p></body></html>";
    }

    private string Menu(bool isGuest) =>
        $"<nav><ul>{string.Concat(Enumerable.Range(60, 12).Where(c => !isGuest || !closedCategories.Contains(c))
            .Select(c => $"<li><a href=\"/store/c{c}\">Category {c}</a></li>"))}</ul></nav>";
}
