using Shouldly;
using WarySentinel.StandIns.Shop;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.StandIns.Tests;

public sealed class ShopTests
{
    [Fact]
    public async Task Every_address_of_the_catalogue_is_a_page_of_the_shop()
    {
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        await using var shop = ShopSite.Build(Path.Combine(RunningSite.Root, "demo", "shop"), address);
        await shop.StartAsync(TestContext.Current.CancellationToken);
        using var http = new HttpClient { BaseAddress = new Uri(address) };
        var addresses = (await File.ReadAllLinesAsync(Path.Combine(RunningSite.Root, "demo", "catalogue.csv"), TestContext.Current.CancellationToken)).Skip(1)
            .SelectMany(line => line.Split(',')[^1].Split('|')).Where(a => a.StartsWith('/') && !a.Contains('*')).ToList();
        addresses.Count.ShouldBeGreaterThan(80);
        foreach (var path in addresses)
        {
            (await http.GetAsync(path, TestContext.Current.CancellationToken)).IsSuccessStatusCode.ShouldBeTrue(path);
        }
    }

    [Fact]
    public void The_shop_knows_nothing_of_us_but_the_marks_that_its_owner_put_into_its_pages()
    {
        foreach (var file in Directory.EnumerateFiles(Path.Combine(RunningSite.Root, "src", "WarySentinel.StandIns", "Shop")))
        {
            System.Text.RegularExpressions.Regex.Replace(
                File.ReadAllText(file), "WarySentinel.StandIns|data-wary-(item|act|for|price)|wary-form|X-Wary-Member", "")
                .ShouldNotContain("wary", Case.Insensitive, file);
        }
    }
}
