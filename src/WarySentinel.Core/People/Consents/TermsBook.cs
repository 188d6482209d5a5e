using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Consents;

/// <summary>Terms that members agree to, with all their versions. Immutable.</summary>
/// <param name="Key">Their name.</param>
/// <param name="Audience">Whom they are asked of.</param>
/// <param name="IsOptional">Whether members come in without agreeing.</param>
/// <param name="Position">The order among terms; null for the usual.</param>
/// <param name="Version">Counts changes of this, from 1.</param>
/// <param name="Texts">Their versions, oldest first.</param>
public sealed record TermsOfSite(string Key, Audience Audience, bool IsOptional, int? Position, int Version, IReadOnlyList<TermsText> Texts)
{
    /// <summary>The newest version, whether or not it counts yet.</summary>
    public TermsText Newest => Texts[^1];

    /// <summary>The version that counts; null where none does yet.</summary>
    public TermsText? InForce(DateTimeOffset now) => Texts.LastOrDefault(t => t.From <= now);

    /// <summary>The version of that number, or null.</summary>
    public TermsText? Find(int number) => Texts.FirstOrDefault(t => t.Number == number);

    /// <summary>
    /// The oldest version that is still enough to have agreed to: later ones in force change nothing that matters. Null where none counts yet.
    /// </summary>
    public TermsText? Enough(DateTimeOffset now) => InForce(now) is not { } last ? null
        : Texts.LastOrDefault(t => t.Number <= last.Number && t.From <= now && !t.IsMinor) ?? Texts[0];

    /// <summary>The draft that says what they say, with the newest text.</summary>
    public TermsDraft ToDraft() => new()
    {
        Key = Key, Title = Newest.Title, Audience = Audience.ToString(), Optional = IsOptional ? true : null, Position = Position, Note = Newest.Note,
        From = SiteDates.Write(Newest.From), Minor = Newest.IsMinor ? true : null, Text = Newest.Text, In = Newest.In,
    };
}

/// <summary>What somebody said to terms last.</summary>
/// <param name="Terms">The key of the terms.</param>
/// <param name="Number">The version that they were asked about.</param>
/// <param name="Agreed">Whether they agreed.</param>
public sealed record Consented(string Terms, int Number, bool Agreed);

/// <summary>Terms that somebody is asked to agree to.</summary>
/// <param name="Terms">The terms.</param>
/// <param name="Text">The version that counts.</param>
/// <param name="Last">What they said last; null where they were never asked.</param>
public sealed record TermsDue(TermsOfSite Terms, TermsText Text, Consented? Last);

/// <summary>Whether somebody is kept out by terms, for as long as time alone changes nothing of it.</summary>
/// <param name="Book">The terms that it was said by.</param>
/// <param name="KeepsOut">The answer.</param>
/// <param name="From">From when it holds.</param>
/// <param name="Until">Before when; null for ever.</param>
public sealed record TermsVerdict(TermsBook Book, bool KeepsOut, DateTimeOffset From, DateTimeOffset? Until)
{
    /// <summary>Whether it still is the answer of these terms.</summary>
    public bool Holds(TermsBook book, DateTimeOffset now) => ReferenceEquals(book, Book) && now >= From && !(now >= Until);
}

/// <summary>The terms of a site. Immutable.</summary>
public sealed record TermsBook : IPolicyPart
{
    /// <summary>None.</summary>
    public TermsBook()
        : this([])
    {
    }

    /// <summary>Some; those without any version are none.</summary>
    public TermsBook(IEnumerable<TermsOfSite> all) => All = [.. all.Where(t => t.Texts.Count > 0).OrderBy(t => t.Position ?? UsualPosition).ThenBy(t =>
        t.Key, StringComparer.Ordinal)];

    /// <summary>Where terms stand in order unless they say.</summary>
    public const int UsualPosition = 100;

    /// <summary>All in their order.</summary>
    public IReadOnlyList<TermsOfSite> All { get; }

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => All.Select(t => new NamedAudience("terms", t.Key, t.Audience));

    /// <summary>The terms of a policy.</summary>
    public static TermsBook Of(Policy policy) => policy.Parts.Of<TermsBook>();

    /// <summary>The terms of that key, or null.</summary>
    public TermsOfSite? Find(string? key) => All.FirstOrDefault(t => t.Key == key);

    /// <summary>
    /// What somebody who is in has to be asked: terms for them of which a version counts that they have not agreed to, nor to one that is enough. What is
    /// optional is asked once for each version that matters.
    /// </summary>
    /// <param name="visitor">The member as a visitor.</param>
    /// <param name="said">What they said so far.</param>
    /// <param name="now">Now.</param>
    public IReadOnlyList<TermsDue> DueFor(Visitor visitor, IReadOnlyList<Consented> said, DateTimeOffset now) =>
        All.Count == 0 || !visitor.IsSignedIn ? [] : [.. All.Select(t => DueOf(t, visitor, said, now)).OfType<TermsDue>()];

    /// <summary>
    /// Whether somebody is kept out until they agree: to every gate they are a guest meanwhile (docs/how-to/terms.md). Staff, who write the terms, are not
    /// asked.
    /// </summary>
    public bool KeepsOut(Visitor visitor, IReadOnlyList<Consented> said, DateTimeOffset now)
    {
        for (var i = 0; i < All.Count; i++)
        {
            if (!All[i].IsOptional && DueOf(All[i], visitor, said, now) is not null)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>The same, and until when: the next day on which a version counts, or something begins or ends that the member holds.</summary>
    public TermsVerdict VerdictFor(Visitor visitor, IReadOnlyList<Consented> said, DateTimeOffset now)
    {
        var dates = All.SelectMany(t => t.Texts).Select(t => (DateTimeOffset?)t.From).Concat(visitor.Grants.SelectMany(g => new[] { g.From, g.Until }));
        return new TermsVerdict(this, KeepsOut(visitor, said, now), now, All.Count == 0 ? null : dates.Where(d => d > now).Min());
    }

    /// <summary>The member as a visitor of this site: a guest while they have to agree to something.</summary>
    public Visitor VisitorOf(Member member, DateTimeOffset now) =>
        member.AsVisitor() is { IsSignedIn: true } visitor && !KeepsOut(visitor, member.Said, now) ? visitor : Visitor.Guest;

    /// <summary>What a form asks for: the terms that it names, or those that are for every member where it names none; null where some are missing.</summary>
    public IReadOnlyList<TermsDue>? OfForm(IReadOnlyList<string>? named, DateTimeOffset now)
    {
        var wanted = named is null ? [.. All.Where(t => t.Audience is Audience.Plain { Atom: PlainAtom.SignedIn or PlainAtom.Anyone })]
            : named.Select(Find).ToList();
        return wanted.Contains(null) ? null : [.. wanted.Where(t => t!.InForce(now) is not null).Select(t => new TermsDue(t!, t!.InForce(now)!, null))];
    }

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var after = All.Select(t => map(t.Audience) is var other && !ReferenceEquals(other, t.Audience) ? t with { Audience = other } : t).ToList();
        return after.Zip(All, ReferenceEquals).All(same => same) ? this : new TermsBook(after);
    }

    internal TermsBook With(string key, Func<TermsOfSite?, TermsOfSite?> change) =>
        new(All.Where(t => t.Key != key).Concat(change(Find(key)) is { } after ? [after] : []));

    private static TermsDue? DueOf(TermsOfSite terms, Visitor visitor, IReadOnlyList<Consented> said, DateTimeOffset now)
    {
        if (terms.Enough(now) is not { } enough || visitor.IsStaff(now) || !terms.Audience.Admits(visitor, "", now))
        {
            return null;
        }

        for (var i = 0; i < said.Count; i++)
        {
            if (said[i].Terms == terms.Key)
            {
                return said[i].Number >= enough.Number && (said[i].Agreed || terms.IsOptional) ? null : new TermsDue(terms, terms.InForce(now)!, said[i]);
            }
        }

        return new TermsDue(terms, terms.InForce(now)!, null);
    }
}

/// <summary>Stores whom terms are for.</summary>
public sealed record TermsPut(string Key, Audience Audience, bool IsOptional, int? Position, int Version) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(draft.Part<TermsBook>().With(Key, old => new TermsOfSite(Key, Audience, IsOptional, Position, Version, old?.Texts ?? [])));
}

/// <summary>Stores a new version of terms; whom they are for is stored with it.</summary>
public sealed record TermsPublished(TermsPut Terms, TermsText Text) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(draft.Part<TermsBook>().With(
        Terms.Key, old => new TermsOfSite(Terms.Key, Terms.Audience, Terms.IsOptional, Terms.Position, Terms.Version, [.. old?.Texts ?? [], Text])));
}

/// <summary>Takes back a version that counts for nobody yet.</summary>
public sealed record TermsWithdrawn(string Key, int Number) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(draft.Part<TermsBook>().With(
        Key, old => old is null ? null : old with { Version = old.Version + 1, Texts = [.. old.Texts.Where(t => t.Number != Number)] }));
}

/// <summary>Drops terms with all their versions, unless somebody has said something to them.</summary>
public sealed record TermsDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(draft.Part<TermsBook>().With(Key, _ => null));
}
