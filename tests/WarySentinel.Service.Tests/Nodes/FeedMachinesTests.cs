using System.Net;
using Shouldly;
using WarySentinel.Contract.Audio;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>Feeds at two machines: what ends an address or its member at one ends it at the other, whatever that knew.</summary>
public sealed class FeedMachinesTests(TwoMachines machines) : IClassFixture<TwoMachines>
{
    private const string Email = "wren@shoal.example";
    private static readonly TimeSpan Soon = TimeSpan.FromSeconds(10);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task An_address_that_is_replaced_at_one_is_over_at_both_and_who_is_kept_out_hears_nothing_at_either()
    {
        var client = machines.First.Client;
        await client.AddItemAsync("show:shoal", "Shoal", [], [], Stop);
        await client.AddItemAsync("episode:shoal-1", "The first", ["show:shoal"], [], Stop);
        await client.AddGateAsync(new GateDraft { Key = "shoal", Title = "Shoal", Covers = ["show:shoal"], Audience = "role:dealer" }, Stop);
        await client.PutShowAsync("shoal", new ShowDraft(Episodes: [new EpisodeDraft("episode:shoal-1", "one.mp3", "2026-01-01")]), null, Stop);
        await client.AddMemberAsync(Email, "Wren", null, "a-ladder-in-the-orchard", ["dealer"], [], [], Stop);
        // Asked for by six at once, it is the same.
        var told = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => client.FeedAsync("shoal", Email, Stop)));
        var address = told.Select(f => f.Address).Distinct().Single();
        var feed = new Uri(address).AbsolutePath;
        var media = feed.Replace("/feeds/", "/media/", StringComparison.Ordinal) + "/shoal-1.mp3";
        await UntilAsync(feed, HttpStatusCode.OK);
        // No file lies there: whoever may listen is told so.
        await UntilAsync(media, HttpStatusCode.NotFound);
        for (var n = 0; n < 3; n++)
        {
            await client.SetStatusAsync(Email, "suspended", null, Stop);
            await UntilAsync(media, HttpStatusCode.Forbidden);
            await client.SetStatusAsync(Email, "active", null, Stop);
            await UntilAsync(media, HttpStatusCode.NotFound);
        }

        await client.ChangeFeedAsync("shoal", Email, Stop);
        await UntilAsync(feed, HttpStatusCode.Gone);
        await UntilAsync(media, HttpStatusCode.Gone);
    }

    private async Task UntilAsync(string path, HttpStatusCode wanted)
    {
        foreach (var site in new[] { machines.First.Site, machines.Second })
        {
            using var http = new HttpClient { BaseAddress = new Uri(site) };
            var until = DateTimeOffset.UtcNow + Soon;
            HttpStatusCode found;
            do
            {
                using var answer = await http.GetAsync(path, Stop);
                found = answer.StatusCode;
            }
            while (found != wanted && DateTimeOffset.UtcNow < until);
            found.ShouldBe(wanted, site + path);
        }
    }
}
