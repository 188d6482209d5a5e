using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Another program, such as one for mailings or a list of customers, keeps what members hold in step with what it has.</summary>
public static class SyncEndpoints
{
    private const int MostPeople = 1000;
    private const int AtOnce = 16;
    private const int MostBodyBytes = 4 << 20;

    /// <summary>Maps the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var sync = api.MapGroup("/sync").WithTags("Sync");
        sync.MapPost("/{source}", Put).Requires("people").Takes(MostBodyBytes);
        sync.MapGet("/{source}", List).Requires("read");
        api.MapGet("/members/{member}/outside-keys", Of).Requires("read").WithTags("Members");
    }

    /// <summary>Takes a batch of people. Each is a change of their own; the same batch again changes nothing.</summary>
    private static async Task<Results<Ok<SyncView>, ProblemHttpResult>> Put(
        string source, SyncDraft draft, HttpContext http, PeopleLane people, PolicyHolder policies, Store store, TimeProvider time, CancellationToken stop)
    {
        var faults = new Faults();
        faults.Unless(MemberSync.IsSource(source), "source", "sync-source", source, MemberSync.LongestSource);
        faults.Unless(draft.People.Count <= MostPeople, "people", "sync-many", MostPeople);
        faults.Unless(draft.Unknown is null or "add" or "skip", "unknown", "not-one-of", draft.Unknown, "add, skip");
        var twice = draft.People.GroupBy(p => p?.Key, StringComparer.Ordinal).FirstOrDefault(g => g.Key is not null && g.Count() > 1)?.Key;
        faults.Unless(twice is null, "people", "sync-twice", twice);
        if (faults.Any)
        {
            return faults.ToProblem().ToHttp();
        }

        var by = Caller.Of(http).Name;
        var found = new SyncPersonView[draft.People.Count];
        // Begun in their order and a few at once: they share transactions, and each still is stored whole or not at all.
        await Parallel.ForAsync(0, found.Length, new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = stop }, async (i, end) =>
        {
            var row = draft.People[i].ToRow();
            async Task<Outcome<Edit<SyncStep>>> StepAsync()
            {
                var known = MemberSync.IsKey(row.Key) ? await store.OutsideKeyAsync(source, row.Key!, end) : null;
                var there = known is not null ? await store.MemberAsync(known.Member, end)
                    : EmailAddress.Normalise(row.Email) is { } email ? await store.MemberByNameAsync(email, end) : null;
                return new MemberSync(policies.Current, source, draft.Unknown != "skip", time.GetUtcNow()).Step(row, known, there);
            }

            var step = await people.ChangeAsync(StepAsync, by);
            // Somebody else added them at the same moment: now they are there.
            found[i] = ViewOf(row, step.Problem is { Code: "member-exists" } ? await people.ChangeAsync(StepAsync, by) : step);
        });
        int Of(string effect) => found.Count(p => p.Effect == effect);
        return TypedResults.Ok(new SyncView(Of("added"), Of("changed"), Of("same"), Of("skipped"), Of("refused"), found));
    }

    /// <summary>Whom a program means by which name.</summary>
    private static async Task<Results<Ok<PageOf<OutsideKeyView>>, ProblemHttpResult>> List(
        string source, string? cursor, int? limit, Store store, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var keys = await store.OutsideKeysAsync(source, after.Value, size + 1, stop);
        var page = Paging.Cut(keys, size, k => k.Key.Key);
        return TypedResults.Ok(new PageOf<OutsideKeyView>([.. page.Items.Select(k => k.Key.ToWire(k.Email))], page.Next));
    }

    /// <summary>The names by which other programs know a member.</summary>
    private static async Task<Results<Ok<IReadOnlyList<OutsideKeyView>>, ProblemHttpResult>> Of(
        string member, MemberService members, Store store, CancellationToken stop) => await members.FindAsync(member, stop) is { } found
        ? TypedResults.Ok<IReadOnlyList<OutsideKeyView>>([.. (await store.OutsideKeysAsync(found.Id, MostPeople, stop)).Select(k => k.ToWire(found.Email))])
        : Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();

    private static SyncRow ToRow(this SyncPersonDraft? draft) => new(
        draft?.Key, draft?.Email, draft?.Name, draft?.Roles, draft?.Groups, draft?.Plans, draft?.Gone ?? false);

    private static OutsideKeyView ToWire(this OutsideKey key, string email) => new(key.Source, key.Key, key.Member, email, key.At);

    private static SyncPersonView ViewOf(SyncRow row, Outcome<SyncStep> step)
    {
        if (step.Problem is { } problem)
        {
            return new SyncPersonView(row.Key, "refused", null, null, problem.Code, problem.Detail.ToReader());
        }

        var effect = step.Value switch
        {
            { Effect: ImportEffect.Fresh } => "added",
            { Effect: ImportEffect.Changed } => "changed",
            { Member: null } when !row.Gone => "skipped",
            _ => "same",
        };
        return new SyncPersonView(row.Key, effect, step.Value.Member?.Id, step.Value.Member?.Email);
    }
}
