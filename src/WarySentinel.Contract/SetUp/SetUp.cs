using WarySentinel.Contract.SiteFile;

namespace WarySentinel.Contract.SetUp;

/// <summary>A membership that is sold.</summary>
/// <param name="Title">What people call it.</param>
/// <param name="Key">The name of its plan; made of the title unless said.</param>
/// <param name="Length">How long it lasts, such as <c>P30D</c>; left out to leave that.</param>
public sealed record SoldPlan(string Title, string? Key = null, string? Length = null);

/// <summary>What the owner says of the site, to have everything made of it; what is left out stays as it is.</summary>
public sealed record SetUpDraft
{
    /// <summary>What the site is called.</summary>
    public string? Name { get; init; }

    /// <summary>Its language (RFC 5646 tag).</summary>
    public string? Language { get; init; }

    /// <summary>Its time zone (IANA name).</summary>
    public string? TimeZone { get; init; }

    /// <summary>What of it is closed: addresses such as <c>/members/**</c>, or items such as <c>section:members</c>.</summary>
    public IReadOnlyList<string>? Closed { get; init; }

    /// <summary>Whom that lets in, as an audience; where nothing is said, whoever holds one of what is sold, else who is signed in.</summary>
    public string? Who { get; init; }

    /// <summary>What the others find in lists and menus: <c>listed</c> or <c>hidden</c>.</summary>
    public string? Others { get; init; }

    /// <summary>The memberships that are sold.</summary>
    public IReadOnlyList<SoldPlan>? Sells { get; init; }

    /// <summary>Who may join by themselves: <c>closed</c>, <c>invitation</c>, <c>approval</c> or <c>open</c>.</summary>
    public string? Joining { get; init; }

    /// <summary><c>password</c>, or <c>letter</c>: by a link in a letter as well.</summary>
    public string? SignIn { get; init; }

    /// <summary>Where people land when they have signed in.</summary>
    public string? Lands { get; init; }

    /// <summary>Who is told what needs a hand; empty for nobody.</summary>
    public string? Notices { get; init; }

    /// <summary>The page of the site whose look the service's pages take.</summary>
    public string? Look { get; init; }
}

/// <summary>The site as a set-up finds it.</summary>
/// <param name="Answers">The answers that would make it as it is; what no set-up made is left out.</param>
/// <param name="IsNew">Whether nothing is closed yet.</param>
/// <param name="SiteUrl">Where visitors find the site.</param>
/// <param name="Origin">Where the site itself answers; empty where the service does not stand in front of it.</param>
/// <param name="Revision">The revision of the policy; storing the answers may ask that it be the same still.</param>
public sealed record SetUpAsked(SetUpDraft Answers, bool IsNew, string SiteUrl, string Origin, long Revision);

/// <summary>A part of the site that its front page leads to.</summary>
/// <param name="Address">Its address, such as <c>/members</c>.</param>
/// <param name="Title">The words of the link; empty where they name something inside it.</param>
public sealed record FoundPartView(string Address, string Title);

/// <summary>What the site's front page says.</summary>
/// <param name="At">Where it was asked for.</param>
/// <param name="Fault">Why it could not be read; null where it could.</param>
/// <param name="Title">The site's name there.</param>
/// <param name="Language">Its language there (RFC 5646 tag).</param>
/// <param name="Parts">The parts that it leads to.</param>
public sealed record FoundSiteView(string At, string? Fault, string? Title, string? Language, IReadOnlyList<FoundPartView> Parts);

/// <summary>What a set-up changes, or did.</summary>
/// <param name="Difference">The changes.</param>
/// <param name="Stored">Whether they are stored.</param>
/// <param name="Revision">The revision they were compared with.</param>
/// <param name="Gate">The gate that closes what is closed, as a sentence; null where nothing is.</param>
public sealed record SetUpOutcome(SiteDifference Difference, bool Stored, long Revision, string? Gate = null);

/// <summary>One thing that was tried on the site.</summary>
/// <param name="What"><c>pages</c>, <c>guest</c>, <c>member</c>, <c>mail</c> or <c>letter</c>.</param>
/// <param name="State"><c>good</c>, <c>wrong</c>, or <c>waiting</c> where it hangs on somebody reading a letter.</param>
/// <param name="Said">What came of it.</param>
/// <param name="Mend">What to do where it is not good.</param>
public sealed record SetUpCheckView(string What, string State, string Said, string? Mend = null);

/// <summary>A line of a check's answer: a thing that was tried, or the end.</summary>
/// <param name="Stage"><c>tried</c>, <c>done</c> or <c>failed</c>.</param>
/// <param name="Check">What was tried.</param>
/// <param name="Detail">Why the whole of it broke off.</param>
public sealed record SetUpCheckLine(string Stage, SetUpCheckView? Check = null, string? Detail = null);

/// <summary>Whom the letter goes to that proves that letters arrive.</summary>
/// <param name="To">The e-mail address; left out for whoever is told what needs a hand.</param>
public sealed record SetUpLetterDraft(string? To = null);
