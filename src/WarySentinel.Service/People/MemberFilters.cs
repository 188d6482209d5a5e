using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Storage;
using Span = WarySentinel.Storage.Span;

namespace WarySentinel.Service.People;

/// <summary>Which members are listed, as an address says it; <see cref="MemberFilter"/> tells what each means.</summary>
public sealed class MemberListing
{
    /// <summary>Any part of a name or address.</summary>
    public string? Search { get; set; }

    /// <summary>Where the account stands.</summary>
    public string? Status { get; set; }

    /// <summary>What they hold now.</summary>
    public string? Holds { get; set; }

    /// <summary>From when the account was made.</summary>
    public string? JoinedFrom { get; set; }

    /// <summary>Until when it was made.</summary>
    public string? JoinedUntil { get; set; }

    /// <summary>From when they last signed in.</summary>
    public string? SeenFrom { get; set; }

    /// <summary>Until when they last did.</summary>
    public string? SeenUntil { get; set; }

    /// <summary>Only those who never did.</summary>
    public bool? Never { get; set; }

    /// <summary>The order.</summary>
    public string? Sort { get; set; }

    /// <summary>Who answered fields so.</summary>
    public string[]? Answer { get; set; }

    /// <summary>The same, as a body says it.</summary>
    public MemberFilter ToFilter() => new(Search, Status, Holds, JoinedFrom, JoinedUntil, SeenFrom, SeenUntil, Never, Sort, Answer);
}

/// <summary>Which members are meant, as it is asked over the wire.</summary>
public static class MemberFilters
{
    private static readonly string[] Sorts = ["email", "name", "joined", "seen"];

    /// <summary>The query, or what of the filter cannot be read.</summary>
    public static Outcome<MemberQuery> ToQuery(this MemberFilter filter, Policy policy, string? after, int most)
    {
        var faults = new Faults();
        var isStatus = MemberNames.TryStatus(filter.Status, out var status);
        faults.Unless(isStatus || string.IsNullOrEmpty(filter.Status), "status", "not-one-of", filter.Status, string.Join(", ", MemberNames.Statuses));
        var isFact = MemberNames.TryFact(filter.Holds, out var fact);
        faults.Unless(isFact || string.IsNullOrEmpty(filter.Holds), "holds", "fact-form", filter.Holds);
        var sort = Array.IndexOf(Sorts, filter.Sort?.TrimStart('-') ?? "email");
        faults.Unless(sort >= 0, "sort", "not-one-of", filter.Sort, string.Join(", ", Sorts));
        var answers = (filter.Answer ?? []).Where(a => !string.IsNullOrEmpty(a)).Select(a => (Written: a, Read: AnswerFilter.Read(a))).ToList();
        faults.Unless(answers.Count <= AnswerFilter.Most, "answer", "answer-filters-many", AnswerFilter.Most);
        foreach (var (written, _) in answers.Take(AnswerFilter.Most).Where(a => a.Read is null))
        {
            faults.Bad("answer", "answer-filter", written);
        }

        Span Read(string name, string? from, string? until)
        {
            var (start, end) = SiteDates.ReadBoth(
                policy.Settings.TimeZone, from, until, (field, code, values) => faults.Bad(name + (field == "from" ? "From" : "Until"), code, values));
            return new Span(start, end);
        }

        var (joined, seen) = (Read("joined", filter.JoinedFrom, filter.JoinedUntil), Read("seen", filter.SeenFrom, filter.SeenUntil));
        return faults.Any ? faults.ToProblem() : new MemberQuery(after, most, filter.Search, isStatus ? status : null, isFact ? fact : null)
        {
            Rule = isFact && fact.Kind == FactKind.Group ? policy.Rules.Of(fact.Key) : null, Joined = joined, Seen = seen, NeverSeen = filter.Never == true,
            Answers = [.. answers.Select(a => a.Read!)],
            Sort = (MemberSort)sort, Descending = filter.Sort?.StartsWith('-') == true,
        };
    }
}
