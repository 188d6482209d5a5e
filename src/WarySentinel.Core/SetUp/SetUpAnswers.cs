using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Core.SetUp;

/// <summary>A membership that is sold.</summary>
/// <param name="Title">What people call it.</param>
/// <param name="Key">The name of its plan; made of the title unless said.</param>
/// <param name="Length">How long it lasts, such as <c>P30D</c>; null to leave that.</param>
public sealed record Sold(string Title, string? Key = null, string? Length = null)
{
    /// <summary>The name of its plan.</summary>
    public string PlanKey => string.IsNullOrWhiteSpace(Key) ? Slug.Of(Title) : Key.Trim();
}

/// <summary>What the owner says of the site, to have everything made of it; what is null stays as it is.</summary>
public sealed record SetUpAnswers
{
    /// <summary>The gate that is made; saying it again changes that one.</summary>
    public const string Gate = "members";

    /// <summary>The redirect that is made.</summary>
    public const string Redirect = "members-home";

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
    public IReadOnlyList<Sold>? Sells { get; init; }

    /// <summary>Who may join by themselves (<see cref="JoinSettings.Ways"/>).</summary>
    public string? Joining { get; init; }

    /// <summary><c>password</c>, or <c>letter</c>: by a link in a letter as well.</summary>
    public string? SignIn { get; init; }

    /// <summary>Where people land when they have signed in; empty for the page that they came from.</summary>
    public string? Lands { get; init; }

    /// <summary>Who is told what needs a hand; empty for nobody.</summary>
    public string? Notices { get; init; }

    /// <summary>The page of the site whose look the pages take; null to leave their look.</summary>
    public string? Look { get; init; }

    /// <summary>Whom the closed part lets in.</summary>
    public string Audience => !string.IsNullOrWhiteSpace(Who) ? Who.Trim()
        : Sells is { Count: > 0 } ? string.Join(" or ", Sells.Select(s => "plan:" + s.PlanKey)) : "signed-in";

    /// <summary>The answers that would make the site as it is. What no set-up made is null.</summary>
    public static SetUpAnswers Of(Policy policy)
    {
        var (settings, gate, plans) = (policy.Settings, policy.FindGate(Gate), policy.Definitions.Where(d => d.Kind == FactKind.Plan).ToList());
        var said = gate is null ? null : GateDraft.Of(gate).Presence;
        return new SetUpAnswers
        {
            Name = settings.SiteName, Language = settings.Language, TimeZone = settings.TimeZone,
            Closed = gate is null ? null : [.. gate.Covers.Select(SaidOf)],
            Who = gate?.Audience?.ToString(),
            Others = said is "listed" or "hidden" ? said : null,
            Sells = plans.Count == 0 ? null : [.. plans.Select(p => new Sold(p.Title, p.Key, p.Length?.ToString()))],
            Joining = JoinSettings.NameOf(settings.Joining.Way),
            SignIn = settings.Letters.SignIn ? "letter" : "password",
            Lands = RedirectBook.Of(policy).All.FirstOrDefault(r => r.Key == Redirect)?.To,
            Notices = settings.Letters.NoticesTo,
        };
    }

    /// <summary>A closed place as the owner writes it.</summary>
    private static string SaidOf(Selector covered) => covered.Path is { } path ? path.Text : covered.ToString();
}
