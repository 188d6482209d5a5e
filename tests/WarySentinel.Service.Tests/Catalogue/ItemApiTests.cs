using System.Net;
using Shouldly;
using Xunit;

namespace WarySentinel.Service.Tests.Catalogue;

public sealed class ItemApiTests(SiteFixture fixture) : IDisposable
{
    private readonly Caller api = new(fixture.Site);

    public void Dispose() => api.Dispose();

    [Fact]
    public async Task An_item_lives_its_life()
    {
        var (created, item, _) = await api.AskAsync("POST", "items", new
        { id = "page:life", title = "Life", parents = new[] { "section:shop" }, addresses = new[] { "/life" } });
        created.ShouldBe(HttpStatusCode.Created);
        item.GetProperty("parents")[0].GetString().ShouldBe("section:shop");
        var (_, _, tag) = await api.AskAsync("GET", "items/page:life");
        tag.ShouldBe("\"1\"");
        var (changed, after, next) = await api.AskAsync("PUT", "items/page:life", new { title = "Lively", addresses = new[] { "/lively" } }, tag);
        changed.ShouldBe(HttpStatusCode.OK);
        after.GetProperty("parents").GetArrayLength().ShouldBe(0);
        next.ShouldBe("\"2\"");
        await api.RefusedAsync(HttpStatusCode.PreconditionFailed, "stale", "PUT", "items/page:life", new { title = "Late" }, tag);
        await api.RefusedAsync(HttpStatusCode.PreconditionRequired, "precondition", "DELETE", "items/page:life");
        await api.RefusedAsync(HttpStatusCode.PreconditionFailed, "stale", "DELETE", "items/page:life", null, tag);
        (await api.AskAsync("DELETE", "items/page:life", null, next)).Status.ShouldBe(HttpStatusCode.NoContent);
        await api.RefusedAsync(HttpStatusCode.NotFound, "item-unknown", "GET", "items/page:life");
    }

    [Theory]
    [InlineData("pag:x", "X", null, null, "id")]
    [InlineData("page:Ü", "X", null, null, "id")]
    [InlineData("page:x", "", null, null, "title")]
    [InlineData("page:x", "X", "shop", null, "parents")]
    [InlineData("page:x", "X", "page:x", null, "parents")]
    [InlineData("page:x", "X", null, "x", "addresses")]
    [InlineData("page:x", "X", null, "/x//y", "addresses")]
    [InlineData("page:x", "X", null, "/account/x", "addresses")]
    public async Task A_fault_is_told_by_its_field(string id, string title, string? parent, string? address, string field)
    {
        var problem = await api.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "item-invalid", "POST", "items",
            new { id, title, parents = parent is null ? [] : new[] { parent }, addresses = address is null ? [] : new[] { address } });
        problem.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe(field);
    }

    [Fact]
    public async Task A_ring_a_duplicate_and_a_missing_parent_are_refused()
    {
        await api.RefusedAsync(HttpStatusCode.Conflict, "item-exists", "POST", "items", new { id = "product:fern-25", title = "Again" });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "item-cycle", "PUT", "items/category:dealer-stock", new
        { title = "Ring", parents = new[] { "category:dealer-spares" } }, "*");
        var missing = await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "parent-missing-near", "POST", "items", new
        { id = "page:y", title = "Y", parents = new[] { "category:filtres" } });
        missing.GetProperty("detail").GetString()!.ShouldContain("category:filters");
    }

    [Fact]
    public async Task What_is_in_use_is_not_removed()
    {
        await api.RefusedAsync(HttpStatusCode.Conflict, "item-has-children", "DELETE", "items/category:filters", null, "*");
        await api.RefusedAsync(HttpStatusCode.NotFound, "item-unknown", "DELETE", "items/site", null, "*");
    }

    [Fact]
    public async Task What_removing_an_item_opens_is_told_before_it_goes()
    {
        var (status, removal, tag) = await api.AskAsync("GET", "items/product:barlow-boxed/removal");
        status.ShouldBe(HttpStatusCode.OK);
        tag.ShouldBe("\"1\"");
        var opens = removal.GetProperty("opens").EnumerateArray().ToList();
        opens.ShouldContain(o => o.GetProperty("what").GetString() == "/product/barlow-boxed" && o.GetProperty("before").GetString() == "hidden"
            && o.GetProperty("after").GetString() == "open");
        opens.SelectMany(o => o.GetProperty("forWhom").EnumerateArray()).ShouldNotContain(w => w.GetString() == "Dealers");
        (await api.AskAsync("GET", "items/product:fern-25/removal")).Body.GetProperty("opens").GetArrayLength().ShouldBe(0);
        await api.RefusedAsync(HttpStatusCode.Conflict, "item-has-children", "GET", "items/category:filters/removal");
    }

    [Fact]
    public async Task Items_are_found_by_kind_branch_and_words()
    {
        (await api.AskAsync("GET", "items?kind=download")).Body.GetProperty("items").GetArrayLength().ShouldBe(3);
        (await api.AskAsync("GET", "items?beneath=category:dealer-stock")).Body.GetProperty("items").GetArrayLength().ShouldBe(11);
        (await api.AskAsync("GET", "items?search=STORK&kind=product")).Body.GetProperty("items").GetArrayLength().ShouldBe(4);
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "GET", "items?kind=produkt");
        await api.RefusedAsync(HttpStatusCode.NotFound, "item-unknown", "GET", "items?beneath=category:none");
    }
}
