using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Redirects;

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

        var old = RedirectBook.Of(policy).All.FirstOrDefault(r => r.Key == read.Value.Key);
        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return new Edit<Redirect>(
            new Edit(old is null ? "redirect.add" : "redirect.set", fresh.Key, [new RedirectPut(fresh)], old is null ? null
            : Describe(old), Describe(fresh))
            {
                Detail = Detail.Of(old is null ? null : RedirectDraft.Of(old), RedirectDraft.Of(fresh)),
            },
            fresh);
    }

    /// <summary>Removes a redirect.</summary>
    public static Outcome<Edit<Redirect>> Remove(Policy policy, string key) =>
        RedirectBook.Of(policy).All.FirstOrDefault(r => r.Key == key) is not { } old
            ? Problem.Of(ProblemKind.NotFound, "redirect-unknown", key)
            : new Edit<Redirect>(new Edit("redirect.remove", key, [new RedirectDropped(key)], Describe(old))
            { Detail = Detail.Of(RedirectDraft.Of(old), null) }, old);

    /// <summary>Where the visitor lands on that occasion, or null where no redirect says.</summary>
    public static string? Landing(Policy policy, RedirectOn on, Visitor visitor, DateTimeOffset now) =>
        RedirectBook.Of(policy).All.FirstOrDefault(r => r.On == on && r.Audience.Admits(visitor, "", now))?.To;

    private static string Describe(Redirect redirect) => $"{RedirectDraft.Occasions[(int)redirect.On]}, {redirect.Audience}: {redirect.To}";
}
