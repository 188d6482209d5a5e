using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.People.Directory;

/// <summary>The directory of members as people write it.</summary>
/// <param name="Audience">Who may look at it; null or empty where there is none.</param>
/// <param name="Title">Its heading.</param>
/// <param name="Lead">What stands beneath it.</param>
/// <param name="Fields">The keys of the fields that members may show in it, in their order.</param>
public sealed record DirectoryDraft(string? Audience, string? Title = null, string? Lead = null, IReadOnlyList<string>? Fields = null);

/// <summary>The directory of members who agreed to stand in it. Immutable.</summary>
/// <param name="Audience">Who may look at it; null where there is none.</param>
/// <param name="Title">Its heading.</param>
/// <param name="Lead">What stands beneath it.</param>
/// <param name="Fields">The keys of the fields that members may show in it, in their order.</param>
/// <param name="Version">Counts its changes, from 1; 0 where it was never set.</param>
public sealed record MemberDirectory(Audience? Audience, string? Title, string? Lead, IReadOnlyList<string> Fields, int Version) : IPolicyPart
{
    /// <summary>None.</summary>
    public MemberDirectory()
        : this(null, null, null, [], 0)
    {
    }

    /// <summary>Most fields that it shows.</summary>
    public const int MostFields = 20;

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => Audience is null ? [] : [new NamedAudience("directory", "directory", Audience)];

    /// <summary>The directory of a policy.</summary>
    public static MemberDirectory Of(Policy policy) => policy.Parts.Of<MemberDirectory>();

    /// <summary>The fields that members may show, as far as they are there; files and consents are nobody's to see.</summary>
    public IReadOnlyList<Field> FieldsOf(FormBook book) =>
        [.. Fields.Select(book.FindField).OfType<Field>().Where(f => f.Kind is not (FieldKind.File or FieldKind.Consent))];

    /// <summary>The draft that says what it says.</summary>
    public DirectoryDraft ToDraft() => new(Audience?.ToString(), Title, Lead, Fields);

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) =>
        Audience is not null && map(Audience) is var other && !ReferenceEquals(other, Audience) ? this with { Audience = other } : this;
}

/// <summary>Stores the directory.</summary>
public sealed record DirectoryPut(MemberDirectory Directory) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(Directory);
}

/// <summary>Stores what a member shows of themselves in the directory.</summary>
/// <param name="Member">Who.</param>
/// <param name="Fields">The keys of the fields; none for their name alone, null where they do not stand in it.</param>
public sealed record ListingSet(Guid Member, IReadOnlyList<string>? Fields) : Change.OfPeople;

/// <summary>Sets up the directory, and who stands in it.</summary>
public static class DirectoryCommands
{
    private const int LongestLead = 2000;
    private const int LongestTitle = 200;

    /// <summary>Stores the directory; without an audience there is none.</summary>
    public static Outcome<Edit<MemberDirectory>> Put(Policy policy, DirectoryDraft draft, IKnownKeys known, int? version = null)
    {
        var (old, faults) = (MemberDirectory.Of(policy), new Faults());
        if (version is not null && version != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", "directory");
        }

        var audience = string.IsNullOrWhiteSpace(draft.Audience) ? (Outcome<Audience>?)null : AudienceParser.Parse(draft.Audience, known);
        if (audience?.Problem is { } problem)
        {
            faults.Take(problem);
        }

        faults.Unless(draft.Title is null || (draft.Title.Length <= LongestTitle && PlainText.IsClean(draft.Title)), "title", "form-words", LongestTitle);
        faults.Unless(draft.Lead is null || (draft.Lead.Length <= LongestLead && PlainText.IsClean(draft.Lead, true)), "lead", "form-words", LongestLead);
        var fields = draft.Fields ?? [];
        faults.Unless(fields.Count <= MemberDirectory.MostFields, "fields", "fields-many", MemberDirectory.MostFields);
        foreach (var key in fields.Take(MemberDirectory.MostFields))
        {
            var field = FormBook.Of(policy).FindField(key ?? "");
            faults.Unless(field is not null, "fields", "field-unknown", key);
            faults.Unless(field?.Kind is not (FieldKind.File or FieldKind.Consent), "fields", "directory-field", key);
        }

        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var after = new MemberDirectory(audience?.Value, Blank(draft.Title), Blank(draft.Lead), [.. fields.Distinct()], old.Version + 1);
        return new Edit<MemberDirectory>(
            new Edit("directory.set", "directory", [new DirectoryPut(after)], old.Audience?.ToString(), after.Audience?.ToString())
            { Detail = Detail.Of(old.ToDraft(), after.ToDraft()) }, after);
    }

    /// <summary>What a member shows of themselves, or that they stand in it no more. Only fields that the owner offers are taken.</summary>
    /// <param name="policy">Says what can be shown.</param>
    /// <param name="member">Who.</param>
    /// <param name="was">What they show; null where they do not stand in it.</param>
    /// <param name="fields">What they want to show; null to stand in it no more.</param>
    public static Outcome<Edit<Member>> List(Policy policy, Member? member, IReadOnlyList<string>? was, IReadOnlyList<string>? fields)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        var offered = MemberDirectory.Of(policy).FieldsOf(FormBook.Of(policy)).Select(f => f.Key).ToList();
        var shown = fields is null ? null : offered.Where(fields.Contains).ToList();
        var isSame = (was is null) == (shown is null) && (was is null || was.Order().SequenceEqual(shown!.Order()));
        return new Edit<Member>(
            new Edit(
                shown is null ? "member.unlist" : "member.list", member.Email, isSame ? [] : [new ListingSet(member.Id, shown)],
                was is null ? null : string.Join(", ", was), shown is null ? null : string.Join(", ", shown)),
            member);
    }

    private static string? Blank(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();
}
