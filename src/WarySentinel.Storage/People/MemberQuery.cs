using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Storage;

/// <summary>What members are listed by.</summary>
public enum MemberSort
{
    /// <summary>Their address.</summary>
    Email,
    /// <summary>Their name, without case and accents.</summary>
    Name,
    /// <summary>When the account was made.</summary>
    Joined,
    /// <summary>When they last signed in; who never has stands before all others.</summary>
    Seen,
}

/// <summary>From when until when; either end may be open.</summary>
public readonly record struct Span(DateTimeOffset? From, DateTimeOffset? Until)
{
    /// <summary>Whether it is open at both ends.</summary>
    public bool IsOpen => From is null && Until is null;
}

/// <summary>Which members, and in which order.</summary>
/// <param name="After">Only those after this place of the order (<see cref="PlaceOf"/>); in the usual order that is an address.</param>
/// <param name="Most">At most so many.</param>
/// <param name="Search">Only with this in name, address or user name.</param>
/// <param name="Status">Only those whose account stands so.</param>
/// <param name="Holds">Only those who hold this now, by whatever source; whether it counts for them, their status says.</param>
public sealed record MemberQuery(
    string? After, int Most, string? Search = null, MemberStatus? Status = null, (FactKind Kind, string Key)? Holds = null)
{
    private const char Part = '\u001f';

    /// <summary>Of a group that is held: its rule, which lets more in (<see cref="GroupRules.Of"/>).</summary>
    public Audience? Rule { get; init; }

    /// <summary>Only those who answered so, each of them; none for all.</summary>
    public IReadOnlyList<AnswerFilter> Answers { get; init; } = [];

    /// <summary>When the account was made.</summary>
    public Span Joined { get; init; }

    /// <summary>When they last signed in.</summary>
    public Span Seen { get; init; }

    /// <summary>Only those who never signed in.</summary>
    public bool NeverSeen { get; init; }

    /// <summary>The order.</summary>
    public MemberSort Sort { get; init; }

    /// <summary>The last of the order first.</summary>
    public bool Descending { get; init; }

    /// <summary>Whether nothing is asked for but a part of a name, in whatever order.</summary>
    internal bool IsPlain => Status is null && Holds is null && Answers.Count == 0 && Joined.IsOpen && Seen.IsOpen && !NeverSeen;

    /// <summary>Whether it lets everybody through, in whatever order.</summary>
    internal bool IsAll => string.IsNullOrWhiteSpace(Search) && IsPlain;

    /// <summary>The same order from the same place, of everybody but what the index of that order knows itself.</summary>
    internal MemberQuery Widened(int most) => new(After, most)
    {
        Sort = Sort,
        Descending = Descending,
        Status = Sort == MemberSort.Email ? Status : null,
        Joined = Sort == MemberSort.Joined ? Joined : default,
        Seen = Sort == MemberSort.Seen ? Seen : default,
        NeverSeen = Sort == MemberSort.Seen && NeverSeen,
    };

    /// <summary>Where a member stands in the order.</summary>
    public string PlaceOf(Member member) => Sort switch
    {
        MemberSort.Name => Place(Core.Spelling.Folded($"{member.Name}\n{member.Email}\n{member.UserName}"), member),
        MemberSort.Joined => Place(Ticks(member.CreatedAt), member),
        MemberSort.Seen => Place(Ticks(member.SeenAt ?? DateTimeOffset.MinValue), member),
        _ => member.Email,
    };

    /// <summary>The two parts of a place: what is sorted by, and the address; null where it is none of this order.</summary>
    internal (string Key, string Email)? AfterParts => After?.Split(Part) is [var key, var email] ? (key, email) : null;

    private static string Place(string key, Member member) => key + Part + member.Email;

    private static string Ticks(DateTimeOffset at) => at.UtcTicks.ToString(System.Globalization.CultureInfo.InvariantCulture);
}
