using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Pages;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>The words of visitor pages in every language.</summary>
public static class TextEndpoints
{
    private const string Name = "/{language}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapTexts(this RouteGroupBuilder api)
    {
        var texts = api.MapGroup("/texts").WithTags("Pages");
        texts.MapGet("/", List).Requires("read");
        texts.MapGet(Name, Show).Requires("read");
        texts.MapPatch(Name, SetAsync).Requires("write");
        texts.MapDelete(Name, ResetAsync).Requires("write");
        return api;
    }

    private static Ok<PageOf<LanguageView>> List(PolicyHolder policies, ILetters letters)
    {
        var policy = policies.Current;
        var all = PageLanguage.OfferedBy(policy).Concat(Wordbook.Languages).Concat(TextBook.Of(policy).All.Select(t => t.Language));
        return TypedResults.Ok(new PageOf<LanguageView>([.. all.Distinct(StringComparer.OrdinalIgnoreCase).Select(l => ToWire(policy, l, letters))], null));
    }

    private static Results<Ok<TextsView>, ProblemHttpResult> Show(string language, HttpContext http, PolicyHolder policies, ILetters letters)
    {
        if (!Spelling.IsLanguage(language))
        {
            return Problem.In("language", "language", language).ToHttp();
        }

        var view = ViewOf(policies.Current, language, letters);
        http.Response.Headers.ETag = Paging.TagOf(view.Version);
        return TypedResults.Ok(view);
    }

    private static async Task<Results<Ok<TextsView>, ProblemHttpResult>> SetAsync(
        string language, TextsPatch patch, HttpContext http, PolicyHolder policies, ILetters letters, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var set = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            policy => TextCommands.Set(policy, new TextsDraft(language, patch.Words), version.Value), Caller.Of(http).Name, stop);
        return Told(set, http, policies, language, letters);
    }

    private static async Task<Results<Ok<TextsView>, ProblemHttpResult>> ResetAsync(
        string language, HttpContext http, PolicyHolder policies, ILetters letters, CancellationToken stop) => Told(
        await policies.ChangeAsync(policy => TextCommands.Reset(policy, language), Caller.Of(http).Name, stop), http, policies, language, letters);

    private static Results<Ok<TextsView>, ProblemHttpResult> Told(
        Outcome<SiteTexts> changed, HttpContext http, PolicyHolder policies, string language, ILetters letters)
    {
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(ViewOf(policies.Current, language, letters));
    }

    private static LanguageView ToWire(Policy policy, string language, ILetters letters) => new(
        language, PageLanguage.NameOf(language), string.Equals(language, policy.Settings.Language, StringComparison.OrdinalIgnoreCase),
        PageLanguage.OfferedBy(policy).Contains(language, StringComparer.OrdinalIgnoreCase), Wordbook.Find(language) is not null,
        TextBook.Of(policy).In(language).Words.Count,
        LanguageGaps.OfTexts(policy, language).Count() + UntoldIn(policy, language, letters).Count());

    private static IEnumerable<Untold> UntoldIn(Policy policy, string language, ILetters letters) => LanguageGaps.IsOf(policy, language) ? []
        : LanguageGaps.Elsewhere(policy, language).Concat(letters.UntoldIn(language).Select(l => new Untold("letter", l.Key, l.Title)));

    private static TextsView ViewOf(Policy policy, string language, ILetters letters)
    {
        var own = TextBook.Of(policy).In(language);
        var spoken = TextBook.Of(policy).SpokenIn(language, policy.Settings.Language);
        var ours = Wordbook.Find(language) ?? Wordbook.English;
        var missing = LanguageGaps.OfTexts(policy, language).Select(t => t.Key).ToHashSet(StringComparer.Ordinal);
        // Forms of a count that English has none of, and what is said of a gate that has gone.
        var others = ours.VisitorKeys.Concat(own.Words.Keys).Select(k => TextCatalogue.Find(policy, k)).OfType<PageText>();
        var all = TextCatalogue.OfService.Concat(TextCatalogue.OfOwner(policy)).Concat(others).DistinctBy(t => t.Key);
        return new TextsView(
            ToWire(policy, language, letters),
            [
                .. all.Select(t => new TextView(
                    t.Key, t.Group, t.IsOwners ? spoken.FindOwn(t.Key) ?? t.Text : spoken[t.Key], own.Words.GetValueOrDefault(t.Key),
                    t.IsOwners ? t.Text : ours[t.Key], t.IsOwners, missing.Contains(t.Key), t.HasLines, t.Longest)),
            ],
            [.. UntoldIn(policy, language, letters).Select(u => new UntoldView(u.Kind, u.Key, u.Title))], own.Version);
    }
}
