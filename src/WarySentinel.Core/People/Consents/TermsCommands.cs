using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.People.Consents;

/// <summary>What commands of terms need to know beside the policy.</summary>
/// <param name="Known">The keys that audiences may name.</param>
/// <param name="By">Who does it.</param>
/// <param name="Now">The time.</param>
public sealed record TermsSurroundings(IKnownKeys Known, string By, DateTimeOffset Now);

/// <summary>Publishes, changes and removes terms.</summary>
public static class TermsCommands
{
    /// <summary>Most terms of a site.</summary>
    public const int Most = 10;

    /// <summary>Most versions of terms.</summary>
    public const int MostTexts = 100;

    /// <summary>
    /// Stores terms. Where they say something else than the newest version, that is a new version; where they say the same, only whom they are for changes.
    /// </summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">The terms.</param>
    /// <param name="around">What else counts.</param>
    /// <param name="version">The version of the row that was edited; null to write over whatever is there.</param>
    public static Outcome<Edit<TermsOfSite>> Put(Policy policy, TermsDraft draft, TermsSurroundings around, int? version = null)
    {
        var read = draft.Read(around.Known, policy.Settings.TimeZone);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var book = TermsBook.Of(policy);
        var (key, old) = (draft.Key!, book.Find(draft.Key));
        if (version is not null && version != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "terms-many", Most);
        }

        var put = new TermsPut(key, read.Value.Audience, draft.Optional ?? false, draft.Position, (old?.Version ?? 0) + 1);
        return old is not null && draft.SaysWhat(old.Newest) ? Changed(old, put, draft) : Published(old, put, draft, read.Value.From, around);
    }

    /// <summary>Takes back the newest version, before it counts.</summary>
    public static Outcome<Edit<TermsOfSite>> Withdraw(Policy policy, string key, int number, DateTimeOffset now)
    {
        if (TermsBook.Of(policy).Find(key) is not { } terms || terms.Find(number) is not { } text)
        {
            return Problem.Of(ProblemKind.NotFound, "terms-unknown", key);
        }

        return text.From <= now || terms.Texts.Count == 1 ? Problem.Of(ProblemKind.Conflict, "terms-in-force", number)
            : new Edit<TermsOfSite>(
                new Edit("terms.withdraw", key, [new TermsWithdrawn(key, number)], text.Title, null) { Detail = Detail.Of(text, null) },
                terms with { Version = terms.Version + 1, Texts = [.. terms.Texts.Where(t => t.Number != number)] });
    }

    /// <summary>Removes terms that no form asks for, unless somebody has said something to them; those are made to be for nobody.</summary>
    public static Outcome<Edit<TermsOfSite>> Remove(Policy policy, string key)
    {
        if (TermsBook.Of(policy).Find(key) is not { } terms)
        {
            return Problem.Of(ProblemKind.NotFound, "terms-unknown", key);
        }

        var forms = string.Join(", ", FormBook.Of(policy).KeptForms.Where(k => k.Draft.Terms?.Contains(key) == true).Select(k => k.Draft.Key));
        return forms.Length > 0 ? Problem.Of(ProblemKind.Conflict, "terms-used", key, forms)
            : new Edit<TermsOfSite>(
                new Edit("terms.remove", key, [new TermsDropped(key)], terms.Newest.Title) { Detail = Detail.Of(terms.ToDraft(), null) }, terms);
    }

    private static Outcome<Edit<TermsOfSite>> Changed(TermsOfSite old, TermsPut put, TermsDraft draft)
    {
        var after = old with { Audience = put.Audience, IsOptional = put.IsOptional, Position = put.Position, Version = put.Version };
        return new Edit<TermsOfSite>(
            new Edit("terms.set", put.Key, [put], old.Newest.Title, draft.Title) { Detail = Detail.Of(Of(old), Of(after)) }, after);
    }

    private static Outcome<Edit<TermsOfSite>> Published(
        TermsOfSite? old, TermsPut put, TermsDraft draft, DateTimeOffset? from, TermsSurroundings around)
    {
        if (old?.Texts.Count >= MostTexts)
        {
            return Problem.Of(ProblemKind.Conflict, "terms-texts-many", MostTexts);
        }

        // What counts already counted before it was published for nobody; a version does not begin before the one it follows.
        var begins = from is { } said && said > around.Now ? said : around.Now;
        if (old is not null && begins < old.Newest.From)
        {
            return Problem.In("from", "terms-order", old.Newest.Number, old.Newest.From);
        }

        var text = new TermsText(
            (old?.Newest.Number ?? 0) + 1, draft.Title!, draft.Text!, draft.Note, begins, old is not null && draft.Minor == true, draft.In, around.Now,
                around.By);
        var after = new TermsOfSite(put.Key, put.Audience, put.IsOptional, put.Position, put.Version, [.. old?.Texts ?? [], text]);
        return new Edit<TermsOfSite>(
            new Edit("terms.publish", put.Key, [new TermsPublished(put, text)], null, text.Title)
            { Detail = Detail.Of(old is null ? null : Of(old), Of(after)) }, after);
    }

    // The texts themselves stand in their versions, not in the history beside.
    private static TermsDraft Of(TermsOfSite terms) => terms.ToDraft() with { Text = null, In = null };
}
