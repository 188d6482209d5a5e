using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Those who ask to join: let in, asked back, or declined, one or many.</summary>
public static class RequestEndpoints
{
    private const int MostAtOnce = 500;
    private const int MostNearby = 100;
    private const int MostEarlier = 5;
    private static readonly TimeSpan Nearby = TimeSpan.FromDays(1);

    /// <summary>Maps the endpoints beneath those of members.</summary>
    public static void MapRequests(this RouteGroupBuilder members)
    {
        members.MapPost("/{member}/approve", (string member, RequestDecision said, HttpContext http, RequestDesk desk, CancellationToken stop) =>
            desk.DecideAsync(member, "approve", said.Words, http, stop)).Requires("people");
        members.MapPost("/{member}/decline", (string member, RequestDecision said, HttpContext http, RequestDesk desk, CancellationToken stop) =>
            desk.DecideAsync(member, "decline", said.Words, http, stop)).Requires("people");
        members.MapPost("/{member}/ask-back", (string member, RequestDecision said, HttpContext http, RequestDesk desk, CancellationToken stop) =>
            desk.DecideAsync(member, "ask", said.Words, http, stop)).Requires("people");
        members.MapPost("/{member}/let-go", (string member, HttpContext http, RequestDesk desk, CancellationToken stop) =>
            desk.DecideAsync(member, "let-go", null, http, stop)).Requires("people");
        members.MapGet("/{member}/request", Show).Requires("read");
    }

    /// <summary>Maps the endpoints of all requests.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var requests = api.MapGroup("/requests").WithTags("Requests");
        requests.MapGet("/", List).Requires("read");
        requests.MapGet("/counts", Counts).Requires("read");
        requests.MapGet("/{member}/nearby", ListNearby).Requires("read");
        requests.MapPost("/decide", DecideMany).Requires("people");
    }

    private static async Task<Results<Ok<PageOf<RequestView>>, ProblemHttpResult>> List(
        string? state, string? cursor, int? limit, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        var (after, wanted) = (Paging.Read(cursor), new List<RequestState>());
        foreach (var name in (string.IsNullOrEmpty(state) ? "waiting,asked" : state).Split(',', StringSplitOptions.TrimEntries))
        {
            var place = JoinRequest.States.ToList().IndexOf(name);
            if (place < 0)
            {
                return Problem.In("state", "not-one-of", name, string.Join(", ", JoinRequest.States)).ToHttp();
            }

            wanted.Add((RequestState)place);
        }

        Guid? last = null;
        if (after.Problem is not null || (after.Value.Length > 0 && !(Guid.TryParse(after.Value, out var id) && (last = id) is not null)))
        {
            return (after.Problem ?? Problem.In("cursor", "cursor")).ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var found = await store.RequestsAsync(wanted, last, size + 1, stop);
        return TypedResults.Ok(Paging.Cut(await ToWireAsync(found, store, policies, time, stop), size, r => r.Id.ToString()));
    }

    private static async Task<Ok<RequestCounts>> Counts(Store store, CancellationToken stop) => TypedResults.Ok(new RequestCounts(
        await store.RequestCountAsync([RequestState.Waiting], stop), await store.RequestCountAsync([RequestState.Asked], stop),
        await store.RequestCountAsync([RequestState.Held], stop)));

    private static async Task<Results<Ok<RequestView>, ProblemHttpResult>> Show(
        string member, MemberService members, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop) =>
        await members.FindAsync(member, stop) is { } found && await store.RequestAsync(found.Id, stop) is { } request
            ? TypedResults.Ok((await ToWireAsync([new RequestOf(request, found)], store, policies, time, stop))[0])
            : Problem.Of(ProblemKind.NotFound, "request-none", member).ToHttp();

    /// <summary>Others who asked from the same network within a day.</summary>
    private static async Task<Results<Ok<PageOf<RequestView>>, ProblemHttpResult>> ListNearby(
        string member, MemberService members, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found || await store.RequestAsync(found.Id, stop) is not { } request)
        {
            return Problem.Of(ProblemKind.NotFound, "request-none", member).ToHttp();
        }

        var near = request.Network is null ? [] : await store.RequestsFromAsync(request.Network, request.Id, request.At - Nearby, MostNearby, stop);
        return TypedResults.Ok(new PageOf<RequestView>(await ToWireAsync(near, store, policies, time, stop), null));
    }

    private static async Task<Results<Ok<RequestsDecided>, ProblemHttpResult>> DecideMany(
        RequestsDecision draft, HttpContext http, RequestDesk desk, CancellationToken stop)
    {
        if (draft.Decision is not ("approve" or "decline" or "sham") || draft.Members.Count is 0 or > MostAtOnce)
        {
            return (draft.Members.Count is 0 or > MostAtOnce ? Problem.In("members", "requests-many", MostAtOnce)
                : Problem.In("decision", "not-one-of", draft.Decision, "approve, decline, sham")).ToHttp();
        }

        var (done, failed) = (0, new List<RequestFailed>());
        foreach (var member in draft.Members.Distinct())
        {
            var decided = await desk.DoAsync(member ?? "", draft.Decision, draft.Words, Caller.Of(http), stop);
            done += decided.IsGood ? 1 : 0;
            failed.AddRange(decided.Problem is { } problem ? [new RequestFailed(member ?? "", problem.Detail.ToReader())] : []);
        }

        return TypedResults.Ok(new RequestsDecided(done, failed));
    }

    /// <summary>What the same person asked before: the same account, name, telephone, VAT number, account number or second address.</summary>
    private static async Task<IReadOnlyList<EarlierRequestView>> EarlierAsync(
        RequestOf one, IReadOnlyList<FieldAnswer> given, FormBook book, Store store, CancellationToken stop)
    {
        List<FieldAnswer> telling = [.. given.Where(a => a.Values.Count > 0 && book.FindField(a.Field) is { } field
            && (field.Kind == FieldKind.Phone || field.Format is TextFormat.Vat or TextFormat.Iban or TextFormat.Email))];
        return
        [
            .. (await store.EarlierAsync(one, telling, MostEarlier, stop)).Select(e => new EarlierRequestView(
                e.Request.Member.Email, e.Request.Request.At, JoinRequest.States[(int)e.Request.Request.State], e.Request.Request.Words,
                e.Same is "member" or "name" ? e.Same : AnswerWords.LabelOf(book, e.Same))),
        ];
    }

    private static async Task<IReadOnlyList<RequestView>> ToWireAsync(
        IReadOnlyList<RequestOf> found, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        var (policy, views) = (policies.Current, new List<RequestView>());
        var answers = await store.AnswersAsync([.. found.Select(r => r.Member.Id)], stop);
        var since = time.GetUtcNow() - Nearby;
        var near = await store.NetworksAsync([.. found.Select(r => r.Request.Network).OfType<string>().Distinct()], since, stop);
        foreach (var one in found)
        {
            var given = answers.GetValueOrDefault(one.Member.Id) ?? [];
            var files = given.Any(a => FormBook.Of(policy).FindField(a.Field)?.Kind == FieldKind.File) ? await store.FilesAsync(one.Member.Id, stop) : [];
            var beside = Math.Max(0, (one.Request.Network is { } network ? near.GetValueOrDefault(network) : 0) - (one.Request.At >= since ? 1 : 0));
            views.Add(one.ToWire(policy, given.ToWire(FormBook.Of(policy), files), beside) with
            {
                Earlier = one.Request.IsOver ? [] : await EarlierAsync(one, given, FormBook.Of(policy), store, stop),
            });
        }

        return views;
    }
}

/// <summary>Decides requests for whoever calls.</summary>
public sealed class RequestDesk(
    MemberService members, MemberLinks links, CallerReader callers, PeopleLane people, PolicyHolder policies, Store store, TimeProvider time)
{
    /// <summary>Decides one, and answers with the member.</summary>
    public async Task<Results<Ok<MemberView>, ProblemHttpResult>> DecideAsync(
        string member, string decision, string? words, HttpContext http, CancellationToken stop) =>
        MemberEndpoints.Changed(await DoAsync(member, decision, words, Caller.Of(http), stop), http, time);

    /// <summary>Decides one.</summary>
    public async Task<Outcome<Member>> DoAsync(string member, string decision, string? words, Caller caller, CancellationToken stop)
    {
        var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
        if (found.Problem is { } unknown)
        {
            return unknown;
        }

        var (id, said) = (found.Value.Id, PlainText.OrNull(words));
        return decision switch
        {
            "approve" => await links.ApproveAsync(id, said, caller.Name, stop),
            "decline" => await links.DeclineAsync(id, said, caller.Name, stop),
            "ask" => await links.AskBackAsync(id, said, caller.Name, stop),
            "let-go" => await links.LetGoAsync(id, caller.Name, stop),
            _ => await RemoveAsync(id, caller, stop),
        };
    }

    /// <summary>A sham goes as if it had never been; only an account that nobody has used yet, and that still waits.</summary>
    private Task<Outcome<Member>> RemoveAsync(Guid member, Caller caller, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var (found, request) = (await store.MemberAsync(member, stop), await store.RequestAsync(member, stop));
            return found is { SeenAt: null, Status: MemberStatus.Unverified or MemberStatus.Pending } && request is { IsOver: false }
                ? AccountCommands.Erase(policies.Current, found, time.GetUtcNow()) : Problem.Of(ProblemKind.Conflict, "request-decided", found?.Email);
        },
        caller.Name);
}
