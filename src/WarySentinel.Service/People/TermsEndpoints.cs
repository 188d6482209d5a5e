using System.Globalization;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People.Consents;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Terms that members agree to, in versions.</summary>
public static class TermsEndpoints
{
    private const int MostConsents = 500;

    /// <summary>Maps the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var terms = api.MapGroup("/terms").WithTags("Terms");
        terms.MapGet("/", List).Requires("read");
        terms.MapGet("/{key}", Show).Requires("read");
        terms.MapPut("/{key}", Put).Requires("write");
        terms.MapDelete("/{key}", Remove).Requires("write");
        terms.MapPost("/{key}/preview", Preview).Requires("read");
        terms.MapGet("/{key}/versions/{number}", Text).Requires("read");
        terms.MapDelete("/{key}/versions/{number}", Withdraw).Requires("write");
        api.MapGet("/members/{member}/consents", Consents).WithTags("Terms").Requires("read");
    }

    private static async Task<Ok<PageOf<TermsView>>> List(PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        var views = new List<TermsView>();
        foreach (var terms in TermsBook.Of(policies.Current).All)
        {
            views.Add(await ViewAsync(policies.Current, terms, store, options, time, stop));
        }

        return TypedResults.Ok(new PageOf<TermsView>(views, null));
    }

    private static async Task<Results<Ok<TermsView>, ProblemHttpResult>> Show(
        string key, HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        if (TermsBook.Of(policies.Current).Find(key) is not { } terms)
        {
            return Problem.Of(ProblemKind.NotFound, "terms-unknown", key).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(terms.Version);
        return TypedResults.Ok(await ViewAsync(policies.Current, terms, store, options, time, stop));
    }

    private static async Task<Results<Ok<TermsView>, ProblemHttpResult>> Put(
        string key, Wire.TermsDraft draft, HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time,
        CancellationToken stop)
    {
        var version = FormEndpoints.VersionIn(http);
        var by = Caller.Of(http).Name;
        var put = version.Problem is { } odd ? odd : await policies.ChangeAsync(
            async policy => TermsCommands.Put(
                policy, draft.ToCore() with { Key = key },
                new TermsSurroundings(await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop), by, time.GetUtcNow()), version.Value),
            by, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(await ViewAsync(policies.Current, put.Value, store, options, time, stop));
    }

    /// <summary>Where the page of terms can be looked at that are not published yet.</summary>
    private static Results<Ok<PreviewView>, ProblemHttpResult> Preview(
        string key, Wire.TermsDraft draft, PolicyHolder policies, Previews previews, ServiceOptions options, TimeProvider time)
    {
        var policy = policies.Current;
        // Who is asked is not looked at: the page is the same to everybody.
        var put = TermsCommands.Put(
            policy, draft.ToCore() with { Key = key, Audience = null, From = null },
            new TermsSurroundings(new KnownKeys(policy, _ => false), "", time.GetUtcNow()));
        return put.Match<Results<Ok<PreviewView>, ProblemHttpResult>>(
            made => TypedResults.Ok(new PreviewView(
                $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/terms/{Uri.EscapeDataString(key)}?preview={previews.Keep(made.Value)}")),
            problem => problem.ToHttp());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => TermsCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> Withdraw(
        string key, string number, HttpContext http, PolicyHolder policies, TimeProvider time, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => TermsCommands.Withdraw(policy, key, Number(number), time.GetUtcNow()), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static Results<Ok<TermsTextView>, ProblemHttpResult> Text(string key, string number, PolicyHolder policies) =>
        TermsBook.Of(policies.Current).Find(key)?.Find(Number(number)) is { } text ? TypedResults.Ok(new TermsTextView(text.Number, text.Title, text.Text,
            text.In.ToWire()))
            : Problem.Of(ProblemKind.NotFound, "terms-unknown", key).ToHttp();

    /// <summary>The number of a version as it stands in an address; none has 0.</summary>
    private static int Number(string text) => int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0;

    private static async Task<Results<Ok<PageOf<ConsentView>>, ProblemHttpResult>> Consents(
        string member, MemberService members, Store store, CancellationToken stop) => await members.FindAsync(member, stop) is not { } found
        ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp()
        : TypedResults.Ok(new PageOf<ConsentView>([.. (await store.ConsentsAsync(found.Id, MostConsents, stop)).Select(c => c.ToWire())], null));

    private static async Task<TermsView> ViewAsync(
        Policy policy, TermsOfSite terms, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        var (figures, inForce) = (await store.ConsentFiguresAsync(terms.Key, stop), terms.InForce(time.GetUtcNow()));
        var page = $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/terms/{terms.Key}/";
        TermsVersionView Of(TermsText text)
        {
            var state = inForce is null || text.Number > inForce.Number ? "announced" : text.Number == inForce.Number ? "in-force" : "past";
            var said = figures.FirstOrDefault(f => f.Number == text.Number);
            return new TermsVersionView(
                text.Number, text.Title, text.Note, text.From, text.IsMinor, state, text.At, text.By, said?.Agreed ?? 0, said?.Refused ?? 0,
                    page + text.Number);
        }

        return new TermsView(
            terms.ToDraft().ToWire(), GateWords.OfAudience(terms.Audience, policy), [.. terms.Texts.Reverse().Select(Of)],
            [.. FormBook.Of(policy).Forms.Where(f => f.Draft.Terms?.Contains(terms.Key) == true).Select(f => f.Key)], terms.Version);
    }

    private static Rules.TermsDraft ToCore(this Wire.TermsDraft draft) => new()
    {
        Key = draft.Key, Title = FormWire.OrNull(draft.Title), Audience = FormWire.OrNull(draft.Audience), Optional = draft.Optional, Position = draft.Position,
        Note = FormWire.OrNull(draft.Note), From = FormWire.OrNull(draft.From), Minor = draft.Minor,
        Text = FormWire.OrNull(draft.Text)?.ReplaceLineEndings("\n"),
        In = draft.In is not { Count: > 0 } all ? null : all.ToDictionary(p => p.Key, p => p.Value is null ? new Rules.TermsWords()
            : new Rules.TermsWords(FormWire.OrNull(p.Value.Title), FormWire.OrNull(p.Value.Text)?.ReplaceLineEndings("\n"), FormWire.OrNull(p.Value.Note))),
    };

    private static Wire.TermsDraft ToWire(this Rules.TermsDraft draft) => new()
    {
        Key = draft.Key, Title = draft.Title, Audience = draft.Audience, Optional = draft.Optional, Position = draft.Position, Note = draft.Note,
        From = draft.From, Minor = draft.Minor, Text = draft.Text, In = draft.In.ToWire(),
    };

    private static Dictionary<string, Wire.TermsWords>? ToWire(this IReadOnlyDictionary<string, Rules.TermsWords>? all) =>
        all?.ToDictionary(p => p.Key, p => new Wire.TermsWords(p.Value.Title, p.Value.Text, p.Value.Note));

    /// <summary>What a member said, as it is told.</summary>
    public static ConsentView ToWire(this Consent consent) =>
        new(consent.Terms, consent.Number, consent.Agreed, consent.At, consent.Language, consent.Where);
}
