using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Forms;

namespace WarySentinel.Core.Redirects;

/// <summary>When a redirect is tried.</summary>
public enum RedirectOn
{
    /// <summary>After signing in, where no page waits to be gone back to.</summary>
    SignIn,
    /// <summary>After signing out.</summary>
    SignOut,
}

/// <summary>A rule: on that occasion, this audience lands there. The first that admits counts.</summary>
/// <param name="Key">Its name.</param>
/// <param name="On">The occasion.</param>
/// <param name="Audience">Whom it is for.</param>
/// <param name="To">An address on this site.</param>
/// <param name="Position">The order in which redirects are tried, lowest first.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record Redirect(string Key, RedirectOn On, Audience Audience, string To, int Position, int Version = 1);

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

/// <summary>Adds, changes and removes redirects; says where somebody lands.</summary>
public static class RedirectCommands
{
    /// <summary>Stores a redirect; one of that key is replaced.</summary>
    public static Outcome<Edit<Redirect>> Put(Policy policy, RedirectDraft draft, IKnownKeys known)
    {
        var read = draft.Read(known);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var old = policy.Extras.Redirects.FirstOrDefault(r => r.Key == read.Value.Key);
        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return new Edit<Redirect>(
            new Edit(old is null ? "redirect.add" : "redirect.set", fresh.Key, [new Change.RedirectPut(fresh)], old is null ? null
            : Describe(old), Describe(fresh))
            {
                Detail = Detail.Of(old is null ? null : RedirectDraft.Of(old), RedirectDraft.Of(fresh)),
            },
            fresh);
    }

    /// <summary>Removes a redirect.</summary>
    public static Outcome<Edit<Redirect>> Remove(Policy policy, string key) =>
        policy.Extras.Redirects.FirstOrDefault(r => r.Key == key) is not { } old
            ? Problem.Of(ProblemKind.NotFound, "redirect-unknown", key)
            : new Edit<Redirect>(new Edit("redirect.remove", key, [new Change.RedirectDropped(key)], Describe(old))
            { Detail = Detail.Of(RedirectDraft.Of(old), null) }, old);

    /// <summary>Where the visitor lands on that occasion, or null where no redirect says.</summary>
    public static string? Landing(Policy policy, RedirectOn on, Visitor visitor, DateTimeOffset now) =>
        policy.Extras.Redirects.FirstOrDefault(r => r.On == on && r.Audience.Admits(visitor, "", now))?.To;

    private static string Describe(Redirect redirect) => $"{RedirectDraft.Occasions[(int)redirect.On]}, {redirect.Audience}: {redirect.To}";
}
