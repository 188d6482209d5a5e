using System.Net;
using Shouldly;
using WarySentinel.Contract.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

public sealed class SyncApiTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_batch_adds_changes_leaves_out_and_refuses_each_by_itself()
    {
        var name = "n" + Guid.NewGuid().ToString("N")[..8];
        SyncPersonDraft[] people =
        [
            new("1", $"one@{name}.example", "One", null, ["institutions"]), new("2", $"ONE@{name}.example", null, null, null, ["patron"]),
            new("3", "nobody"), new("4", $"four@{name}.example", null, ["owner"]), new(" 5", $"five@{name}.example"), new("6", $"six@{name}.example", null,
            null, ["institushuns"]),
        ];
        var done = await site.Client.SyncAsync(name, new SyncDraft(people), Stop);
        (done.Added + done.Changed, done.Refused).ShouldBe((2, 4));
        done.People.Skip(2).Select(p => p.Code).ShouldBe(["email-form", "staff-role", "sync-key", "standing-unknown-near"]);
        var one = (await site.Client.MemberAsync($"one@{name}.example", Stop)).Value;
        one.Grants.Select(g => (g.Fact, g.Source)).Order().ShouldBe([("group:institutions", $"sync:{name}:1"), ("plan:patron", $"sync:{name}:2")]);
        one.Status.ShouldBe("invited");
        var again = await site.Client.SyncAsync(name, new SyncDraft(people), Stop);
        (again.Added, again.Changed, again.Same).ShouldBe((0, 0, 2));

        // Known by its name, whatever the address says by now; and gone.
        var moved = await site.Client.SyncAsync(name, new SyncDraft([new("1", "else@where.example", null, null, [])]), Stop);
        moved.People.ShouldHaveSingleItem().Email.ShouldBe(one.Email);
        (await site.Client.SyncAsync(name, new SyncDraft([new("2", Gone: true)]), Stop)).Changed.ShouldBe(1);
        (await site.Client.MemberAsync(one.Email, Stop)).Value.Grants.ShouldAllBe(g => !g.InForce);
        (await site.Client.OutsideKeysAsync(one.Email, Stop)).ShouldHaveSingleItem().Key.ShouldBe("1");
        (await site.Client.SyncAsync(name, new SyncDraft([new("9", $"nine@{name}.example")], "skip"), Stop)).Skipped.ShouldBe(1);
    }

    [Fact]
    public async Task A_batch_that_cannot_be_meant_so_is_refused_whole()
    {
        using var api = new Caller(site);
        var two = new[] { new { key = "1", email = "a@twice.example" }, new { key = "1", email = "b@twice.example" } };
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "sync-twice", "POST", "sync/crm", new { people = two });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "sync-source", "POST", "sync/C%20M", new { people = Array.Empty<object>() });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "POST", "sync/crm", new { people = Array.Empty<object>(), unknown = "erase" });
        var many = Enumerable.Range(0, 1001).Select(i => new { key = i.ToString(System.Globalization.CultureInfo.InvariantCulture) });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "sync-many", "POST", "sync/crm", new { people = many });
        var (status, body, _) = await api.AskAsync("POST", "sync/crm",
            new { people = new object?[] { null, new { key = "x", groups = new string?[] { null } } } });
        status.ShouldBe(HttpStatusCode.OK);
        body.GetProperty("refused").GetInt32().ShouldBe(2);
        (await api.AskAsync("GET", "members?search=twice.example")).Body.GetProperty("items").GetArrayLength().ShouldBe(0);
    }
}
