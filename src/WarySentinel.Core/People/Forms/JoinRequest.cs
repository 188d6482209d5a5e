using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Forms;

/// <summary>Where a request to join stands.</summary>
public enum RequestState
{
    /// <summary>The address is not proved yet.</summary>
    Unproved,
    /// <summary>Staff have not decided yet.</summary>
    Waiting,
    /// <summary>Staff asked something back, and wait for the answer.</summary>
    Asked,
    /// <summary>Held back, since it looks like a sham; staff see why.</summary>
    Held,
    /// <summary>Staff said yes, or nobody had to.</summary>
    Approved,
    /// <summary>Staff said no.</summary>
    Declined,
    /// <summary>Staff invited them to fill in the form, and they have not come yet.</summary>
    Invited,
}

/// <summary>What a request gives, once it is approved or need not be.</summary>
/// <param name="Kind">Role, group or plan.</param>
/// <param name="Key">Its key.</param>
/// <param name="Days">For so many days; null without end.</param>
/// <param name="AfterApproval">Whether staff say yes to it first.</param>
public sealed record RequestGrant(FactKind Kind, string Key, int? Days, bool AfterApproval)
{
    /// <summary>The fact, such as <c>group:dealers</c>.</summary>
    public string Fact => $"{FactNames.NameOf(Kind)}:{Key}";
}

/// <summary>Why a request looks like a sham, with what was seen.</summary>
/// <param name="Kind">A name of <see cref="Suspicion.Kinds"/>.</param>
/// <param name="Seen">What was seen, such as the domain; null where the kind says it all.</param>
public sealed record Sign(string Kind, string? Seen = null);

/// <summary>Somebody's asking to join by a form. Their answers stand with the member.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Member">The account that was made.</param>
/// <param name="Form">The key of the form.</param>
/// <param name="At">When it was sent.</param>
/// <param name="State">Where it stands.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record JoinRequest(Guid Id, Guid Member, string Form, DateTimeOffset At, RequestState State, int Version = 1)
{
    /// <summary>What it gives.</summary>
    public IReadOnlyList<RequestGrant> Grants { get; init; } = [];

    /// <summary>Why it looks like a sham.</summary>
    public IReadOnlyList<Sign> Signs { get; init; } = [];

    /// <summary>Whether staff have to say yes before the account is active.</summary>
    public bool NeedsApproval { get; init; }

    /// <summary>The network that it came from, such as <c>192.0.2.0/24</c>.</summary>
    public string? Network { get; init; }

    /// <summary>The mail domain of the address.</summary>
    public string? Domain { get; init; }

    /// <summary>What staff said last, as the applicant reads it.</summary>
    public string? Words { get; init; }

    /// <summary>When it was decided, or asked back.</summary>
    public DateTimeOffset? DecidedAt { get; init; }

    /// <summary>Who decided or asked.</summary>
    public string? By { get; init; }

    /// <summary>Whether it is decided.</summary>
    public bool IsOver => State is RequestState.Approved or RequestState.Declined;

    /// <summary>The names of states, as they are written.</summary>
    public static readonly IReadOnlyList<string> States = ["unproved", "waiting", "asked", "held", "approved", "declined", "invited"];
}

/// <summary>Stores a new request.</summary>
public sealed record RequestAdded(JoinRequest Request) : Change.OfPeople;

/// <summary>Stores what became of a request, unless somebody else changed it since version <paramref name="Was"/>.</summary>
public sealed record RequestSet(JoinRequest Request, int Was) : Change.OfPeople;

/// <summary>Stores a member's answers to these fields, in place of those they gave before.</summary>
public sealed record AnswersSet(Guid Member, IReadOnlyList<FieldAnswer> Answers) : Change.OfPeople
{
    /// <summary>Whether the member is new, so that there are none before.</summary>
    public bool AreFirst { get; init; }
}
