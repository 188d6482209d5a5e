using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.SetUp;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Core.SetUp;
using WarySentinel.Core.SiteFile;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Gates;
using WarySentinel.Service.SiteFile;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.SetUp;

/// <summary>The site in one step: what is asked, what is made of the answers, and whether it holds.</summary>
public static class SetUpEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSetUp(this RouteGroupBuilder api)
    {
        var setup = api.MapGroup("/setup").WithTags("Set-up");
        setup.MapGet("/", Show).Requires("read");
        setup.MapGet("/site", FindAsync).Requires("write");
        setup.MapPost("/", MakeAsync).Requires("write");
        setup.MapPost("/check", CheckAsync).Requires("write").Produces<SetUpCheckLine>(200, "application/x-ndjson");
        setup.MapPost("/letter", LetterAsync).Requires("write");
        return api;
    }

    private static Ok<SetUpAsked> Show(PolicyHolder policies, ServiceOptions options)
    {
        var (revision, policy) = (policies.Revision, policies.Current);
        return TypedResults.Ok(new SetUpAsked(
            ToWire(SetUpAnswers.Of(policy)), policy.Gates.All(g => g.IsExemption), options.SiteUrl, options.Origin, revision));
    }

    /// <summary>What the site says of itself on its front page.</summary>
    private static async Task<Ok<FoundSiteView>> FindAsync(
        Outbound outbound, IHttpClientFactory clients, ServiceOptions options, CancellationToken stop)
    {
        var at = new Uri(options.Origin.Length > 0 ? options.Origin : options.SiteUrl);
        FoundSiteView Nothing(string fault) => new(at.ToString(), fault, null, null, []);
        try
        {
            using var fetcher = new Fetcher(outbound, clients, TimeSpan.FromSeconds(options.FetchSeconds));
            var page = await fetcher.GetAsync(at, stop);
            if (page.Status != StatusCodes.Status200OK || !page.Type.Contains("html", StringComparison.OrdinalIgnoreCase))
            {
                return TypedResults.Ok(Nothing(Words.Of("problem.look-page", "/", $"{page.Status} {page.Type}")));
            }

            var found = SiteFinder.Read(Encoding.UTF8.GetString(page.Body), page.Address);
            return TypedResults.Ok(new FoundSiteView(
                at.ToString(), null, found.Title, found.Language, [
                    .. found.Parts.Where(p => !options.Reserved.Any(r => RequestPath.IsUnder(p.Address, r))).Select(p => new FoundPartView(p.Address, p.Title)),
                ]));
        }
        catch (SourceException fault)
        {
            return TypedResults.Ok(Nothing(fault.Said.ToReader()));
        }
    }

    /// <summary>Makes the site of the answers: all of it, or nothing. A dry run only says what would change.</summary>
    private static async Task<Results<Ok<SetUpOutcome>, ProblemHttpResult>> MakeAsync(
        SetUpDraft draft, bool? dryRun, long? revision, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, LookTaking looks,
        CancellationToken stop)
    {
        var answers = ToCore(draft);
        SiteLook? taken = null;
        if (answers.Look is { Length: > 0 } page)
        {
            var look = await looks.FindAsync(page, stop);
            if (look.Problem is { } unread)
            {
                return (unread with { Faults = [new Fault("look", unread.Detail)] }).ToHttp();
            }

            taken = look.Value.Look;
        }

        var members = await policies.NamedMembersAsync(answers.Who is { } who ? [who] : [], stop);
        var stored = false;
        var done = await policies.ChangeAsync<SetUpOutcome>(
            async policy =>
            {
                if (revision is not null && revision != policies.Revision)
                {
                    return Problem.Of(ProblemKind.Stale, "apply-moved");
                }

                var around = await surroundings.ReadAsync(policy, answers.Who is { } named ? [named] : [], stop);
                var (difference, edit) = SetUpCommands.Apply(policy, answers, taken, around, members.Contains);
                if (difference.Faults.Count > 0)
                {
                    return new Problem(ProblemKind.Invalid, "setup-invalid", difference.Faults[0].Message, difference.Faults);
                }

                stored = edit is not null && dryRun != true;
                var after = edit is null ? policy : policy.TryAfter(edit).Value;
                var says = after.FindGate(SetUpAnswers.Gate) is { } gate ? GateSentence.Of(gate, after).ToString() : null;
                return new Edit<SetUpOutcome>(
                    stored ? edit! : new Edit("setup", "site", []), new SetUpOutcome(difference.ToWire(), stored, policies.Revision, says));
            },
            Caller.Of(http).Name, stop);
        return done.Problem is { } problem ? problem.ToHttp() : TypedResults.Ok(done.Value with { Stored = stored, Revision = policies.Revision });
    }

    private static Task CheckAsync(HttpContext http, SetUpCheck check) => Lines.StreamAsync<SetUpCheckLine>(
        http,
        async (tell, stop) =>
        {
            await check.RunAsync(found => tell(new SetUpCheckLine("tried", found)), stop);
            tell(new SetUpCheckLine("done"));
        },
        detail => new SetUpCheckLine("failed", null, detail));

    private static async Task<Results<NoContent, ProblemHttpResult>> LetterAsync(
        SetUpLetterDraft draft, HttpContext http, PolicyHolder policies, MailTrial trial)
    {
        var to = string.IsNullOrWhiteSpace(draft.To) ? policies.Current.Settings.Letters.NoticesTo : draft.To;
        return EmailAddress.Normalise(to) is not { } address ? Problem.In("to", "email-form", to).ToHttp()
            : await trial.SendAsync(address, Caller.Of(http).Name) is { } problem ? problem.ToHttp() : TypedResults.NoContent();
    }

    private static SetUpAnswers ToCore(SetUpDraft draft) => new()
    {
        Name = draft.Name, Language = draft.Language, TimeZone = draft.TimeZone, Closed = draft.Closed, Who = draft.Who, Others = draft.Others,
        Sells = draft.Sells is { } sold ? [.. sold.Select(s => new Sold(s.Title, s.Key, s.Length))] : null, Joining = draft.Joining, SignIn = draft.SignIn,
        Lands = draft.Lands, Notices = draft.Notices, Look = draft.Look,
    };

    private static SetUpDraft ToWire(SetUpAnswers answers) => new()
    {
        Name = answers.Name, Language = answers.Language, TimeZone = answers.TimeZone, Closed = answers.Closed, Who = answers.Who, Others = answers.Others,
        Sells = answers.Sells is { } sold ? [.. sold.Select(s => new SoldPlan(s.Title, s.Key, s.Length))] : null, Joining = answers.Joining,
        SignIn = answers.SignIn, Lands = answers.Lands, Notices = answers.Notices, Look = answers.Look,
    };
}
