using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Hosted;

/// <summary>What staff do with hosted pages, whichever surface they do it by.</summary>
public sealed class HostedDesk(Store store, PolicyHolder policies, PeopleLane people, ServiceOptions options, TimeProvider time)
{
    /// <summary>What a command needs to know beside the policy.</summary>
    public HostedSurroundings Around(string by) => new(options.Reserved, by, time.GetUtcNow());

    /// <summary>What is written on a page: its draft, else what is served, else what will be, else what was last; null where there is none of these.</summary>
    public async Task<(PageDraftText? Draft, PageVersion? Version)> WrittenAsync(HostedPage page, CancellationToken stop)
    {
        if (await store.PageDraftAsync(page.Key, stop) is { } draft)
        {
            return (draft, null);
        }

        var number = (page.At(time.GetUtcNow()) ?? page.Next)?.Number ?? page.Last;
        return (null, number > 0 ? await store.PageVersionAsync(page.Key, number, stop) : null);
    }

    /// <summary>Keeps what is written.</summary>
    public Task<Outcome<PageDraftText>> WriteAsync(string page, PageWriting writing, int? was, string by, CancellationToken stop) => people.ChangeAsync(
        async () => HostedCommands.Write(
            policies.Current, page, writing, was ?? (await store.PageDraftAsync(page, stop))?.Version ?? 0, Around(by)), by);

    /// <summary>Publishes what is written, or what is said.</summary>
    /// <param name="page">The page.</param>
    /// <param name="writing">What is to be published; null for the draft.</param>
    /// <param name="at">From when on, as people write it; null for at once.</param>
    /// <param name="was">The version that has to be served still; null for any.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<HostedPage>> PublishAsync(string page, PageWriting? writing, string? at, int? was, string by, CancellationToken stop)
    {
        DateTimeOffset? from = null;
        if (!string.IsNullOrWhiteSpace(at))
        {
            if (!new SiteDates(policies.Current.Settings.TimeZone).TryRead(at.Trim(), false, out var moment))
            {
                return Problem.In("at", "page-from", at);
            }

            from = moment;
        }

        return await policies.ChangeAsync(async policy =>
        {
            if (was is not null && HostedBook.Of(policy).Page(page) is { } there && (there.At(time.GetUtcNow())?.Number ?? 0) != was)
            {
                return Problem.Of(ProblemKind.Stale, "stale", "page:" + page);
            }

            var draft = writing is null ? await store.PageDraftAsync(page, stop) : null;
            var said = writing ?? (draft is null ? null : new PageWriting(draft.Title, draft.Description, draft.Text));
            if (said is null)
            {
                return HostedBook.Of(policy).Page(page) is null ? HostedCommands.Publish(policy, page, new(null, null, null), null, Nobody, t => t, Around(by))
                    : Problem.Of(ProblemKind.Conflict, "page-nothing-written");
            }

            var known = await policies.KnownKeysAsync(policy, [.. AudiencesIn(said.Text ?? "")], stop);
            return HostedCommands.Publish(policy, page, said, from, known, HostedText.PlainOf, Around(by));
        }, by, stop);
    }

    /// <summary>Reads a text as it would be published.</summary>
    public async Task<Outcome<PageText>> ReadAsync(string text, CancellationToken stop)
    {
        var policy = policies.Current;
        return PageTextReader.Read(text, await policies.KnownKeysAsync(policy, [.. AudiencesIn(text)], stop), id => policy.Graph.PlaceOf(id) >= 0);
    }

    private KnownKeys Nobody => new(policies.Current, _ => false);

    /// <summary>What stands behind the marks of a text, for the members that it names to be looked up.</summary>
    private static IEnumerable<string> AudiencesIn(string text) => text.Split('\n').Select(l => l.TrimStart())
        .Where(l => l.StartsWith(":::", StringComparison.Ordinal)).Select(l => l.TrimStart(':').TrimStart())
        .Where(l => l.StartsWith("for ", StringComparison.Ordinal)).Select(l => l[4..].Trim());
}
