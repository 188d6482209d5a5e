using System.Text;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Contract.People;
using WarySentinel.Service.People;
using WarySentinel.Storage;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>The index that members are searched by rests while many come, on whichever machine, and is there again afterwards.</summary>
public sealed class SearchIndexTests(TwoMachines machines) : IClassFixture<TwoMachines>
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private SearchIndex Here => machines.First.Services.GetRequiredService<SearchIndex>();

    private SearchIndex There => machines.SecondServices.GetRequiredService<SearchIndex>();

    private Store Store => machines.First.Services.GetRequiredService<Store>();

    [Fact]
    public async Task Whoever_has_it_rest_keeps_others_from_building_it_until_they_end_or_are_gone()
    {
        (await Here.RestAsync(SearchIndex.FewestRows - 1, Stop)).ShouldBeNull("so few come as quickly with it");
        var many = SearchIndex.FewestRows + (4 * await Store.MemberCountAsync(Stop));
        var resting = (await Here.RestAsync(many, Stop)).ShouldNotBeNull();
        (await There.RestAsync(many, Stop)).ShouldBeNull("it rests already");
        await There.RunDueAsync(Stop);
        (await Store.RestSearchAsync(Stop)).ShouldBeFalse("nobody built it");
        await resting.DisposeAsync();
        await There.RunDueAsync(Stop);
        (await Store.BuildSearchAsync(Stop)).ShouldBeFalse("the other machine built it");

        // A machine that is gone: its lease ends by itself.
        await Store.RestSearchAsync(Stop);
        await Store.LeaseAsync("search-index", "gone", DateTimeOffset.UtcNow.AddMinutes(1), Stop);
        await Here.RunDueAsync(Stop);
        (await Store.RestSearchAsync(Stop)).ShouldBeFalse("it is waited for");
        await Store.LeaseAsync("search-index", "gone", DateTimeOffset.UtcNow.AddSeconds(-1), Stop);
        await Here.RunDueAsync(Stop);
        (await Store.BuildSearchAsync(Stop)).ShouldBeFalse("it was built");
    }

    [Fact]
    public async Task Members_are_found_while_they_come_and_the_index_is_there_when_they_have_come()
    {
        const int rows = SearchIndex.FewestRows + 2000;
        var file = Encoding.UTF8.GetBytes("email,name\n" + string.Concat(Enumerable.Range(0, rows).Select(n => $"i{n}@many.example,Some One {n}\n")));
        await Here.RunDueAsync(Stop);
        MemberImportLine? last = null;
        await foreach (var line in machines.First.Client.ImportMembersAsync(new MemoryStream(file), false, [], null, null, null, Stop))
        {
            last = line;
            (await machines.First.Client.AllAsync<MemberView>("members?search=nell@orchard", 5, Stop).ToListAsync(Stop)).ShouldHaveSingleItem();
        }

        (last!.Stage, last.Fresh).ShouldBe(("done", rows));
        (await machines.First.Client.AllAsync<MemberView>($"members?search=i{rows - 1}@", 5, Stop).ToListAsync(Stop)).ShouldHaveSingleItem();
        await Here.RunDueAsync(Stop);
        (await Store.BuildSearchAsync(Stop)).ShouldBeFalse("it is there");
        (await machines.First.Client.AllAsync<MemberView>($"members?search=i{rows - 1}@", 5, Stop).ToListAsync(Stop)).ShouldHaveSingleItem();
        // Those who are there already come again, a few with them: it is not worth the while.
        (await There.RestAsync(rows, Stop)).ShouldBeNull();
    }
}
