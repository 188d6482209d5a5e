using Shouldly;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Sweep;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

/// <summary>Prices that stand where somebody reads them who may not.</summary>
public sealed class ClosedPriceTests
{
    private static readonly ItemId Heron = new ItemId(ItemKind.Product, "heron");

    private static ItemId? At(string href) => href.StartsWith("/p/", StringComparison.Ordinal) ? new ItemId(ItemKind.Product, href[3..]) : null;

    private static ItemId? Named(string value) => value is "heron" or "egret" ? new ItemId(ItemKind.Product, value) : null;

    private static string Found(string text, bool isOwn) =>
        string.Join(' ', ClosedPrices.In(text, isOwn ? Heron : null, At, Named, i => i == Heron).Select(p => p.Amount));

    [Theory]
    [InlineData("<div><h2><a href=/p/heron>Heron</a></h2><p>€ 90</p></div>", "€ 90")]
    [InlineData("<ul><li><a href=/p/heron>Heron</a> 90,00 € <li><a href=/p/egret>Egret</a> 80,00 €</ul>", "90,00 €")]
    [InlineData("<table><tr><td><a href=/p/heron>H</a><td>CHF 90<tr><td><a href=/p/egret>E</a><td>CHF 80</table>", "CHF 90")]
    [InlineData("<div><a href=/p/heron>Heron</a><p>Ask for the price</p></div><p>€ 4</p>", "")]
    [InlineData("<main><h1>Lamps</h1><p>€ 4</p><p>See <a href=/p/heron>Heron</a>.</p></main>", "")]
    [InlineData("[{\"id\":\"heron\",\"offer\":{\"price\":\"90.00\",\"priceCurrency\":\"EUR\"}},{\"id\":\"egret\",\"price\":80}]", "90.00")]
    [InlineData("{\"url\":\"/p/heron\",\"list_price\":90}", "90")]
    [InlineData("{\"note\":\"prices on demand\"} {broken", "")]
    public void Beside_a_link_and_in_data(string text, string amounts) => Found(text, false).ShouldBe(amounts);

    [Theory]
    [InlineData("<h1>Heron</h1><span class=unit-price>90</span>", "90")]
    [InlineData("<h1>Heron</h1><meta itemprop=price content=90.00>", "90.00")]
    [InlineData("<meta property=product:price:amount content=90><h1>Heron</h1>", "90")]
    [InlineData("<h1>Heron</h1><div data-price=90></div>", "90")]
    [InlineData("<h1>Heron</h1><script type=application/ld+json>{\"offers\":[{\"price\":90}]}</script>", "90")]
    [InlineData("<h1>Heron</h1><p>Ours for <b>€ 90</b> only</p>", "€ 90")]
    [InlineData("<h1>Heron</h1><p>Free delivery of whatever you order from € 200 upwards, on any day.</p><footer>€ 5 for a bag</footer>", "")]
    [InlineData("<h1>Heron</h1><p class=price>Sign in to see it</p><div><a href=/p/egret>Egret</a><p>€ 80</p></div>", "")]
    public void On_its_own_page(string text, string amounts) => Found(text, true).ShouldBe(amounts);
}
