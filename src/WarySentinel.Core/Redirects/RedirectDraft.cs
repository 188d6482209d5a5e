using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Redirects;

/// <summary>A redirect as people write it.</summary>
public sealed record RedirectDraft(string? Key, string? On, string? Audience, string? To, int? Position = null, bool? Insists = null)
{
    /// <summary>The names of occasions.</summary>
    public static readonly IReadOnlyList<string> Occasions =
        ["sign-in", "sign-out", "first-sign-in", "registration", "confirmation", "approval", "password-set", "refusal", "unlock"];

    /// <summary>Where a redirect stands in order unless it says.</summary>
    public const int UsualPosition = 100;

    /// <summary>The draft that says what a redirect says.</summary>
    public static RedirectDraft Of(Redirect redirect) => new(
        redirect.Key, Occasions[(int)redirect.On], redirect.Audience.ToString(), redirect.To, redirect.Position, redirect.Insists ? true : null);

    /// <summary>Reads the name of an occasion; false where it is none.</summary>
    public static bool TryOccasion(string? text, out RedirectOn on)
    {
        var place = Occasions.ToList().IndexOf(text ?? "");
        on = (RedirectOn)Math.Max(0, place);
        return place >= 0;
    }

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<Redirect> Read(IKnownKeys known)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var isOccasion = TryOccasion(On, out var on);
        faults.Unless(isOccasion, "on", "not-one-of", On, string.Join(", ", Occasions));
        var audience = AudienceParser.Parse(string.IsNullOrWhiteSpace(Audience) ? "anyone" : Audience, known);
        if (audience.Problem is { } problem)
        {
            faults.Take(problem);
        }

        if (Placeholders.FaultOf(To ?? "") is var (code, values))
        {
            faults.Bad("to", code, values);
        }

        return faults.Any ? faults.ToProblem("redirect-invalid")
            : new Redirect(Key!, on, audience.Value, To!, Position ?? UsualPosition, Insists ?? false);
    }
}
