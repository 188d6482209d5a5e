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
        var faults = new List<Fault>();
        if (!CatalogueKey.IsValid(Key))
        {
            faults.Add(new Fault("key", Words.Of("problem.key-form", Key)));
        }

        var on = Occasions.ToList().IndexOf(On ?? "");
        if (on < 0)
        {
            faults.Add(new Fault("on", Words.Of("problem.not-one-of", On, string.Join(", ", Occasions))));
        }

        var audience = AudienceParser.Parse(string.IsNullOrWhiteSpace(Audience) ? "anyone" : Audience, known);
        if (audience.Problem is { } problem)
        {
            faults.AddRange(problem.Faults);
        }

        if (!ReturnTo.IsOnThisSite(To))
        {
            faults.Add(new Fault("to", Words.Of("problem.redirect-form")));
        }

        return faults.Count > 0
            ? new Problem(ProblemKind.Invalid, "redirect-invalid", faults[0].Message, faults)
            : new Redirect(Key!, (RedirectOn)on, audience.Value, To!, Position ?? 100);
    }
}
