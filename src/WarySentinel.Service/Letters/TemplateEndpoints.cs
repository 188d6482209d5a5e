using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Letters;
using WarySentinel.Core;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>The words of letters: shown, changed, tried, and back to ours.</summary>
public static class TemplateEndpoints
{
    private const string Name = "/{kind}/{language}";

    /// <summary>Maps the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var templates = api.MapGroup("/letter-templates").WithTags("Letters");
        templates.MapGet("/", List).Requires("read");
        templates.MapGet(Name, Show).Requires("read");
        templates.MapPut(Name, Put).Requires("write");
        templates.MapDelete(Name, Reset).Requires("write");
        templates.MapPost(Name + "/preview", Preview).Requires("read");
        templates.MapPost(Name + "/test", Test).Requires("write");
    }

    private static Ok<PageOf<LetterKindView>> List(PolicyHolder policies)
    {
        var (book, words) = (LetterBook.Of(policies.Current), Reader.Book);
        return TypedResults.Ok(new PageOf<LetterKindView>(
            [
                .. LetterKinds.All.Select(k => new LetterKindView(
                    k.Key, k.Title.In(words), k.About.In(words), k.IsNecessary, [.. book.All.Where(t => t.Kind == k.Key).Select(t => t.Language)],
                    [.. OurLetters.Languages.Where(l => OurLetters.Find(k.Key, l) is not null)],
                    [.. k.Variables.Select(v => new LetterVariableView(v.Name, v.About.In(words), v.Sample, k.Needed.Contains(v))), .. AnswersOf(k,
                        policies)])),
            ],
            null));
    }

    /// <summary>The answers that a letter can say: a name for each field of the site.</summary>
    private static IEnumerable<LetterVariableView> AnswersOf(LetterKind kind, PolicyHolder policies) => !kind.HasAnswers ? []
        : FormBook.Of(policies.Current).Fields.Where(f => f.Kind != FieldKind.File).Select(f => new LetterVariableView(
            LetterKind.AnswerPrefix + f.Key, f.Draft.Label!, f.Draft.Placeholder ?? f.Draft.Label!, false));

    private static Results<Ok<LetterTemplateView>, ProblemHttpResult> Show(string kind, string language, HttpContext http, PolicyHolder policies)
    {
        if (FaultOf(kind, language) is { } odd)
        {
            return odd.ToHttp();
        }

        var view = ToWire(language, LetterBook.Of(policies.Current).Choose(kind, language, policies.Current.Settings.Language));
        http.Response.Headers.ETag = Paging.TagOf(view.Version);
        return TypedResults.Ok(view);
    }

    private static async Task<Results<Ok<LetterTemplateView>, ProblemHttpResult>> Put(
        string kind, string language, LetterTemplateDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        if (version.Problem is { } missing)
        {
            return missing.ToHttp();
        }

        var put = await policies.ChangeAsync(
            policy => TemplateCommands.Put(policy, kind, language, ToCore(draft) with { Version = version.Value }, LiquidCheck.Check),
                Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(ToWire(language, new ChosenTemplate(put.Value, false)));
    }

    private static async Task<Results<Ok<LetterTemplateView>, ProblemHttpResult>> Reset(
        string kind, string language, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        var reset = await policies.ChangeAsync(policy => TemplateCommands.Reset(policy, kind, language), Caller.Of(http).Name, stop);
        return reset.Match<Results<Ok<LetterTemplateView>, ProblemHttpResult>>(
            chosen => TypedResults.Ok(ToWire(language, chosen)), problem => problem.ToHttp());
    }

    /// <summary>What would become of a template, for made-up values or for a member; nothing is stored.</summary>
    private static async Task<Results<Ok<LetterPreview>, ProblemHttpResult>> Preview(
        string kind, string language, LetterTemplateDraft draft, LetterDesk desk, MemberService members, Store store, CancellationToken stop)
    {
        var written = await WriteAsync(kind, language, draft, (desk, members, store), stop);
        return written.Match<Results<Ok<LetterPreview>, ProblemHttpResult>>(
            letter => TypedResults.Ok(new LetterPreview(letter.Subject, letter.Html, letter.Text)), problem => problem.ToHttp());
    }

    /// <summary>Sends a letter as it would be to whoever asks; only there.</summary>
    private static async Task<Results<Ok<TestLetterView>, ProblemHttpResult>> Test(
        string kind, string language, LetterTemplateDraft draft, HttpContext http, LetterDesk desk, Envelopes envelopes, MemberService members,
            PeopleLane people,
        Store store, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        if (caller.Member is not { } id || await store.MemberAsync(id, stop) is not { } me)
        {
            return Problem.Of(ProblemKind.Conflict, "test-letter-nobody").ToHttp();
        }

        var written = await WriteAsync(kind, language, draft, (desk, members, store), stop);
        if (written.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var letter = envelopes.Queue(me.Email, written.Value, LetterKinds.Get(kind) with { Urgency = Urgency.Now });
        var sent = await people.ChangeAsync(new Edit<int>(new Edit("letter.test", me.Email, [letter], null, $"{kind}.{language}"), 0), caller.Name);
        return sent.Problem is { } fault ? fault.ToHttp() : TypedResults.Ok(new TestLetterView(me.Email));
    }

    private static async Task<Outcome<WrittenLetter>> WriteAsync(
        string kind, string language, LetterTemplateDraft draft, (LetterDesk Desk, MemberService Members, Store Store) by, CancellationToken stop)
    {
        if (FaultOf(kind, language) is { } odd)
        {
            return odd;
        }

        var known = LetterKinds.Get(kind);
        var read = TemplateCommands.Read(known, language, ToCore(draft), null, LiquidCheck.Check);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        Member? whose = null;
        if (!string.IsNullOrWhiteSpace(draft.Member) && (whose = await by.Members.FindAsync(draft.Member, stop)) is null)
        {
            return Problem.In("member", "member-unknown-name", draft.Member);
        }

        var samples = known.Variables.Where(v => !v.Name.StartsWith("site.", StringComparison.Ordinal)
            && (whose is null || !v.Name.StartsWith("member.", StringComparison.Ordinal))).Select(v => (v.Name, (string?)v.Sample)).ToList();
        var reader = whose is null ? new LetterReader("ada@quill.example", "Ada Quill") { Answers = by.Desk.SampleAnswers }
            : LetterReader.Of(whose) with { Answers = await by.Store.AnswersAsync(whose.Id, stop) };
        return by.Desk.Render(read.Value, by.Desk.Values(kind, reader, samples));
    }

    private static Problem? FaultOf(string kind, string language) =>
        LetterKinds.Find(kind) is null ? Problem.Of(ProblemKind.NotFound, "letter-kind", kind, Nearest.To(kind, LetterKinds.All.Select(k => k.Key)) ?? "told")
        : !Spelling.IsLanguage(language) ? Problem.In("language", "language", language) : null;

    private static TemplateDraft ToCore(LetterTemplateDraft draft) => new(draft.Subject, draft.Html, draft.Text);

    private static LetterTemplateView ToWire(string language, ChosenTemplate chosen)
    {
        var (template, isHere) = (chosen.Template, chosen.Template.Language == language);
        return new LetterTemplateView(
            template.Kind, language, template.Language, !chosen.IsOurs && isHere, template.Subject, template.Html, template.Text,
            chosen.IsOurs || !isHere ? 0 : template.Version);
    }
}
