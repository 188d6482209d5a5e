using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Fields, and the forms by which people join.</summary>
public static class FormEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var fields = api.MapGroup("/fields").WithTags("Forms");
        fields.MapGet("/", (PolicyHolder policies) => FieldsOf(FormBook.Of(policies.Current))).Requires("read");
        fields.MapPost("/order", OrderFields).Requires("write");
        fields.MapPut("/{key}", PutField).Requires("write");
        fields.MapDelete("/{key}", RemoveField).Requires("write");
        fields.MapDelete("/{key}/answers", EraseAnswers).Requires("write");
        var forms = api.MapGroup("/forms").WithTags("Forms");
        forms.MapGet("/", (PolicyHolder policies, ServiceOptions options) => FormsOf(FormBook.Of(policies.Current), options)).Requires("read");
        forms.MapPost("/order", OrderForms).Requires("write");
        forms.MapGet("/{key}", Show).Requires("read");
        forms.MapPut("/{key}", Put).Requires("write");
        forms.MapDelete("/{key}", Remove).Requires("write");
        forms.MapPost("/{key}/try", Try).Requires("read");
        forms.MapPost("/{key}/preview", Preview).Requires("read");
    }

    private static Ok<PageOf<FieldView>> FieldsOf(FormBook book) => TypedResults.Ok(new PageOf<FieldView>([.. book.Fields.Select(f => f.ToView(book))], null));

    private static Ok<PageOf<FormView>> FormsOf(FormBook book, ServiceOptions options) => TypedResults.Ok(new PageOf<FormView>(
        [.. book.Forms.Select(f => ViewOf(f.Draft, f.Version, book, options)), .. BrokenOf(book, options)], null));

    private static async Task<Results<Ok<PageOf<FieldView>>, ProblemHttpResult>> OrderFields(
        OrderedKeys order, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FormCommands.OrderFields(policy, order.Keys), Caller.Of(http).Name, stop))
            .Match<Results<Ok<PageOf<FieldView>>, ProblemHttpResult>>(book => FieldsOf(book), problem => problem.ToHttp());

    private static async Task<Results<Ok<PageOf<FormView>>, ProblemHttpResult>> OrderForms(
        OrderedKeys order, HttpContext http, PolicyHolder policies, ServiceOptions options, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FormCommands.OrderForms(policy, order.Keys), Caller.Of(http).Name, stop))
            .Match<Results<Ok<PageOf<FormView>>, ProblemHttpResult>>(book => FormsOf(book, options), problem => problem.ToHttp());

    private static IEnumerable<FormView> BrokenOf(FormBook book, ServiceOptions options) => book.Broken.Where(b => b.Kind == "form")
        .Select(b => ViewOf(book.DraftOf(b.Key)?.Draft ?? new Core.People.Forms.FormDraft { Key = b.Key }, book.DraftOf(b.Key)?.Version ?? 0, book, options));

    private static FormView ViewOf(Core.People.Forms.FormDraft draft, int version, FormBook book, ServiceOptions options)
    {
        var broken = book.Broken.Where(b => b.Kind == "form" && b.Key == draft.Key).Select(b => b.Problem).FirstOrDefault();
        return new FormView(
            draft.ToWire(), $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/register/{draft.Key}", FormWire.GivesOf(draft, book),
            broken?.Detail.ToReader(), version);
    }

    private static async Task<Results<Ok<FieldView>, ProblemHttpResult>> PutField(
        string key, Wire.FieldDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        var version = VersionIn(http);
        var put = version.Problem is { } odd ? odd : await policies.ChangeAsync(
            policy => FormCommands.PutField(policy, draft.ToCore() with { Key = key }, version.Value), Caller.Of(http).Name, stop);
        return put.Match<Results<Ok<FieldView>, ProblemHttpResult>>(
            field => TypedResults.Ok(field.ToView(FormBook.Of(policies.Current))), problem => problem.ToHttp());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveField(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FormCommands.RemoveField(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    /// <summary>Erases what everybody answered, on purpose: also of a field that is there no more.</summary>
    private static async Task<Results<Ok<ErasedView>, ProblemHttpResult>> EraseAnswers(
        string key, HttpContext http, Store store, PeopleLane people, CancellationToken stop)
    {
        if (!Caller.Of(http).IsOwner)
        {
            return Problem.Of(ProblemKind.Forbidden, "owner-only").ToHttp();
        }

        var there = await store.AnsweredAsync(key, stop);
        var erased = await people.ChangeAsync(
            new Edit<int>(new Edit("field.erase", key, there > 0 ? [new AnswersErased(key)] : []), there), Caller.Of(http).Name);
        return erased.Match<Results<Ok<ErasedView>, ProblemHttpResult>>(count => TypedResults.Ok(new ErasedView(count)), problem => problem.ToHttp());
    }

    private static Results<Ok<FormView>, ProblemHttpResult> Show(string key, HttpContext http, PolicyHolder policies, ServiceOptions options)
    {
        var book = FormBook.Of(policies.Current);
        if (book.DraftOf(key) is not { } kept)
        {
            return Problem.Of(ProblemKind.NotFound, "form-unknown", key).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(kept.Version);
        return TypedResults.Ok(ViewOf(kept.Draft, kept.Version, book, options));
    }

    private static async Task<Results<Ok<FormView>, ProblemHttpResult>> Put(
        string key, Wire.FormDraft draft, HttpContext http, PolicyHolder policies, ServiceOptions options, CancellationToken stop)
    {
        var version = VersionIn(http);
        var put = version.Problem is { } odd ? odd : await policies.ChangeAsync(
            policy => FormCommands.PutForm(policy, draft.ToCore() with { Key = key }, version.Value), Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(ViewOf(put.Value.Draft, put.Value.Version, FormBook.Of(policies.Current), options));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FormCommands.RemoveForm(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    /// <summary>Says what would become of a form with these answers. Nothing is changed by it.</summary>
    private static Results<Ok<FormTryView>, ProblemHttpResult> Try(string key, FormTryDraft asked, PolicyHolder policies)
    {
        var found = FormOf(key, asked, policies.Current);
        if (found.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var (form, book) = found.Value;
        var filled = FilledForm.Of(form, field => [.. (asked.Answers.GetValueOrDefault(field) ?? []).Select(v => v ?? "")]);
        var joining = form.JoiningOn(policies.Current.Settings);
        return TypedResults.Ok(new FormTryView(
            [.. form.Placed.Where(p => filled.Shows(p.Field.Key)).Select(p => p.Field.Key)],
            [.. Enumerable.Range(0, form.SectionConditions.Count).Where(i => filled.ShowsSection(form, i))],
            filled.Answers.ToWire(book, []),
            [.. filled.Faults.Select(f => new AnswerFaultView(f.Field.Key, f.Problem.Detail.ToReader()))],
            [.. filled.GrantsOf(form).Select(g => g.Fact)],
            joining.Way == JoinWay.Approval && !form.Approves(EmailAddress.Normalise(asked.Email) ?? "", joining.Confirm, filled)));
    }

    /// <summary>Where the page of a form can be looked at that is not stored yet; nothing can be sent there.</summary>
    private static Results<Ok<PreviewView>, ProblemHttpResult> Preview(
        string key, FormTryDraft asked, PolicyHolder policies, Previews previews, ServiceOptions options) =>
        FormOf(key, asked, policies.Current).Match<Results<Ok<PreviewView>, ProblemHttpResult>>(
            found => TypedResults.Ok(new PreviewView(
                $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/register/{Uri.EscapeDataString(key)}?preview={previews.Keep(found.Form)}")),
            problem => problem.ToHttp());

    /// <summary>The form that is asked about, with what is not stored yet.</summary>
    private static Outcome<(JoinForm Form, FormBook Book)> FormOf(string key, FormTryDraft asked, Policy policy)
    {
        foreach (var field in asked.Fields ?? [])
        {
            var put = FormCommands.PutField(policy, field.ToCore());
            var after = put.Problem is { } bad ? bad : policy.TryAfter(put.Value.ToStore);
            if (after.Problem is { } problem)
            {
                return problem;
            }

            policy = after.Value;
        }

        if (asked.Form is { } draft)
        {
            var put = FormCommands.PutForm(policy, draft.ToCore() with { Key = key });
            return put.Problem is { } bad ? bad : (put.Value.Value, FormBook.Of(policy));
        }

        return FormBook.Of(policy).Find(key) is { } form ? (form, FormBook.Of(policy)) : Problem.Of(ProblemKind.NotFound, "form-unknown", key);
    }

    /// <summary>The version that the caller edited; null where they write over whatever is there.</summary>
    /// <summary>The version that the caller edited; null where they say nothing of it.</summary>
    internal static Outcome<int?> VersionIn(HttpContext http) => http.Request.Headers.IfMatch.Count == 0 ? (int?)null : Paging.VersionIn(http.Request);
}
