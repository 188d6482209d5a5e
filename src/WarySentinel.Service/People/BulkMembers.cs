using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// Does something with many members: those that are named, or all whom a filter finds, however many. Each is an edit of their own, with an entry in the
/// trail; many go at once and share transactions. What is done again changes nothing, so that it can be begun again where it broke off.
/// </summary>
public sealed class BulkMembers(
    IEnumerable<IBulkAct> acts, MemberService members, PolicyHolder policies, PeopleLane people, CallerReader callers, Store store, TimeProvider time)
{
    private const int MostNamed = 10_000;
    private const int PageSize = 500;
    private const int AtOnce = 32;
    private const int MostTold = 20;

    /// <summary>Runs it, and tells line by line how far it is; a draft that cannot be done at all is refused at once.</summary>
    public async Task<IResult> RunAsync(BulkDraft draft, HttpContext http, CancellationToken stop)
    {
        var (caller, policy) = (Caller.Of(http), policies.Current);
        if (acts.FirstOrDefault(a => a.Name == draft.Do) is not { } act)
        {
            return Problem.In("do", "not-one-of", draft.Do, string.Join(", ", acts.Select(a => a.Name))).ToHttp();
        }

        var query = (draft.Filter ?? new MemberFilter()).ToQuery(policy, null, PageSize);
        var fault = query.Problem ?? act.FaultOf(draft, caller, policy, time.GetUtcNow()) ?? (draft.Members, draft.Filter) switch
        {
            (null, null) => Problem.In("members", "bulk-whom"),
            ({ Count: > MostNamed }, _) => Problem.In("members", "bulk-many", MostNamed),
            _ => null,
        };
        if (fault is not null)
        {
            return fault.ToHttp();
        }

        var run = new Run(act, draft, caller);
        await Lines.StreamAsync<MembersChangeLine>(
            http, (tell, cancel) => AllAsync(run, draft.Members is null ? query.Value : null, tell, cancel), detail => run.Line("failed", detail));
        return Results.Empty;
    }

    private async Task AllAsync(Run run, MemberQuery? query, Action<MembersChangeLine> tell, CancellationToken stop)
    {
        await foreach (var page in query is null ? NamedAsync(run, stop) : FoundAsync(query, stop))
        {
            var options = new ParallelOptions { MaxDegreeOfParallelism = run.Draft.DryRun == true ? 1 : AtOnce, CancellationToken = stop };
            await Parallel.ForEachAsync(page, options, async (member, _) => await OneAsync(run, member));
            tell(run.Line("working"));
        }

        tell(run.Line("done"));
    }

    /// <summary>All whom the filter finds, in the order of addresses: what is done to some of them moves none of the others.</summary>
    private async IAsyncEnumerable<IReadOnlyList<Member>> FoundAsync(
        MemberQuery query, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop)
    {
        query = query with { Sort = MemberSort.Email, Descending = false, Most = PageSize };
        while (true)
        {
            var page = await store.MembersAsync(query, stop);
            if (page.Count > 0)
            {
                yield return page;
            }

            if (page.Count < PageSize)
            {
                yield break;
            }

            query = query with { After = page[^1].Email };
        }
    }

    private async IAsyncEnumerable<IReadOnlyList<Member>> NamedAsync(
        Run run, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop)
    {
        run.Total = run.Draft.Members!.Count;
        foreach (var chunk in run.Draft.Members.Distinct().Chunk(PageSize))
        {
            var found = new List<Member>();
            foreach (var name in chunk)
            {
                if (await members.FindAsync(name, stop) is { } member)
                {
                    found.Add(member);
                }
                else
                {
                    run.Refuse(name, Problem.Of(ProblemKind.NotFound, "member-unknown-name", name));
                }
            }

            yield return found;
        }
    }

    private async Task OneAsync(Run run, Member member)
    {
        if (!run.Caller.IsOwner && callers.IsStaff(member))
        {
            run.Refuse(member.Email, Problem.Of(ProblemKind.Forbidden, "owner-only"));
            return;
        }

        var changes = false;
        var (first, dry) = (member, run.Draft.DryRun == true);
        var outcome = await people.ChangeAsync<bool>(
            async () =>
            {
                // Somebody else was faster: once more with what is there by now.
                var now = first ?? await store.MemberAsync(member.Id);
                first = null;
                if (now is null)
                {
                    return Problem.Of(ProblemKind.NotFound, "member-unknown");
                }

                var edit = await run.Act.ForAsync(now, run.Draft, run.Caller, policies.Current, time.GetUtcNow());
                changes = edit is { IsGood: true, Value.Changes.Count: > 0 };
                return edit.Problem is { } problem ? problem
                    : new Edit<bool>(dry && changes ? edit.Value with { Changes = [] } : edit.Value, changes);
            },
            run.Caller.Name);
        if (outcome.Problem is { } refused)
        {
            run.Refuse(member.Email, refused);
        }
        else
        {
            run.Count(member, changes);
        }
    }

    /// <summary>What has come of it so far.</summary>
    private sealed class Run(IBulkAct act, BulkDraft draft, Caller caller)
    {
        private readonly Lock one = new();
        private readonly List<string> whom = [];
        private readonly List<BulkRefusal> refusals = [];
        private int changed;
        private int same;
        private int refused;

        public IBulkAct Act => act;

        public BulkDraft Draft => draft;

        public Caller Caller => caller;

        public int Total { get; set; }

        public void Count(Member member, bool changes)
        {
            lock (one)
            {
                (changed, same) = changes ? (changed + 1, same) : (changed, same + 1);
                if (changes && whom.Count < MostTold)
                {
                    whom.Add(member.Name);
                }
            }
        }

        public void Refuse(string member, Problem problem)
        {
            lock (one)
            {
                refused++;
                if (refusals.Count < MostTold)
                {
                    refusals.Add(new BulkRefusal(member, problem.Detail.ToReader()));
                }
            }
        }

        public MembersChangeLine Line(string stage, string? detail = null)
        {
            lock (one)
            {
                return new MembersChangeLine(changed + same + refused, Total, changed, same, refused, [.. whom], [.. refusals], stage, detail);
            }
        }
    }
}
