using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Entries;
using WarySentinel.Core;
using WarySentinel.Core.Entries;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using EntryDraft = WarySentinel.Contract.Entries.EntryDraft;
using Rule = WarySentinel.Core.Entries;

namespace WarySentinel.Service.Entries;

/// <summary>What one entry is, on pages of cards and in data.</summary>
public static class EntryEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapEntries(this RouteGroupBuilder api)
    {
        var entries = api.MapGroup("/entries").WithTags("Entries");
        entries.MapGet("/", (PolicyHolder policies) =>
            TypedResults.Ok(new PageOf<EntryView>([.. EntryBook.Of(policies.Current).All.Select(ToWire)], null))).Requires("read");
        entries.MapPut("/{key}", Put).Requires("write");
        entries.MapDelete("/{key}", Remove).Requires("write");
        entries.MapPost("/propose", Propose).Requires("read");
        entries.MapPost("/try", Try).Requires("read");
        return api;
    }

    private static async Task<Results<Ok<EntryView>, ProblemHttpResult>> Put(
        string key, EntryDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => EntryCommands.Put(policy, ToCore(draft) with { Key = key }), Caller.Of(http).Name, stop))
            .Match<Results<Ok<EntryView>, ProblemHttpResult>>(rule => TypedResults.Ok(ToWire(rule)), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => EntryCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static async Task<Results<Ok<EntryProposals>, ProblemHttpResult>> Propose(EntrySearch asked, EntryDesk desk, CancellationToken stop) =>
        (await desk.ProposeAsync(asked.Address ?? "", stop)).Match<Results<Ok<EntryProposals>, ProblemHttpResult>>(
            found => TypedResults.Ok(new EntryProposals(asked.Address!, [.. found.Select(f =>
                new EntryProposal(ToWire(f.Draft with { At = [asked.Address!.Split('?', '#')[0]] }), f.Count, f.Items, f.Example))])),
            problem => problem.ToHttp());

    private static async Task<Results<Ok<EntryTried>, ProblemHttpResult>> Try(EntryTrial asked, EntryDesk desk, CancellationToken stop) =>
        (await desk.TryAsync(ToCore(asked.Draft), asked.Address ?? "", asked.As ?? "guest", stop))
            .Match<Results<Ok<EntryTried>, ProblemHttpResult>>(tried => TypedResults.Ok(tried), problem => problem.ToHttp());

    private static Rule.EntryDraft ToCore(EntryDraft draft) => new()
    {
        Key = draft.Key, At = draft.At, Sort = draft.Sort, Entry = draft.Entry, Link = draft.Link, Price = draft.Price, About = draft.About,
        Behind = draft.Behind, Blank = draft.Blank, Beside = draft.Beside, Points = draft.Points,
    };

    private static EntryDraft ToWire(Rule.EntryDraft draft) => new()
    {
        Key = draft.Key, At = draft.At, Sort = draft.Sort, Entry = draft.Entry, Link = draft.Link, Price = draft.Price, About = draft.About,
        Behind = draft.Behind, Blank = draft.Blank, Beside = draft.Beside, Points = draft.Points,
    };

    private static EntryView ToWire(EntryRule rule)
    {
        var draft = Rule.EntryDraft.Of(rule);
        return new EntryView(
            rule.Key, draft.At ?? [], draft.Sort!, draft.Entry, draft.Link, draft.Price, draft.About, draft.Behind, draft.Blank is true, draft.Beside ?? [],
            draft.Points ?? [], rule.IsUnreadable, rule.Version);
    }
}
