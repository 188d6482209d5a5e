using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Redirects;

/// <summary>A redirect as people write it.</summary>
public sealed record RedirectDraft(string? Key, string? On, string? Audience, string? To, int? Position = null)
{
    /// <summary>The names of occasions.</summary>
    public static readonly IReadOnlyList<string> Occasions = ["sign-in", "sign-out"];

    /// <summary>The draft that says what a redirect says.</summary>
    public static RedirectDraft Of(Redirect redirect) =>
        new(redirect.Key, Occasions[(int)redirect.On], redirect.Audience.ToString(), redirect.To, redirect.Position);

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<Redirect> Read(IKnownKeys known)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var on = Occasions.ToList().IndexOf(On ?? "");
        faults.Unless(on >= 0, "on", "not-one-of", On, string.Join(", ", Occasions));
        var audience = AudienceParser.Parse(string.IsNullOrWhiteSpace(Audience) ? "anyone" : Audience, known);
        if (audience.Problem is { } problem)
        {
            faults.Take(problem);
        }

        faults.Unless(ReturnTo.IsOnThisSite(To), "to", "redirect-form");
        return faults.Any ? faults.ToProblem("redirect-invalid") : new Redirect(Key!, (RedirectOn)on, audience.Value, To!, Position ?? 100);
    }
}
