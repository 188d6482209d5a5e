using WarySentinel.Core.Access;

namespace WarySentinel.Core.Audio;

/// <summary>Adds, changes and removes shows.</summary>
public static class ShowCommands
{
    /// <summary>Most shows of a site.</summary>
    public const int Most = 200;

    /// <summary>Stores a show; one of that key is replaced. A draft without episodes leaves those that there are.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    /// <param name="now">Since when an episode is out that does not say.</param>
    public static Outcome<Edit<Show>> Put(Policy policy, ShowDraft draft, int? version, DateTimeOffset now)
    {
        var book = ShowBook.Of(policy);
        var old = book.Find(draft.Key ?? "");
        var read = Kept(draft, old).Read(policy.Graph, policy.Settings.TimeZone, now);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        if (version is { } seen && seen != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", read.Value.Key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "shows-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return old is not null && IsSame(old, fresh) ? new Edit<Show>(new Edit("show.set", old.Key, []), old)
            : new Edit<Show>(
                new Edit(old is null ? "show.add" : "show.set", fresh.Key, [new ShowPut(fresh)], old is null ? null : Describe(policy, old),
                    Describe(policy, fresh))
                {
                    Detail = Detail.Of(old is null ? null : ShowDraft.Of(old), ShowDraft.Of(fresh)),
                },
                fresh);
    }

    /// <summary>Removes a show. Its files stay where they are.</summary>
    public static Outcome<Edit<Show>> Remove(Policy policy, string key) => ShowBook.Of(policy).Find(key) is not { } old ? Unknown(policy, key)
        : new Edit<Show>(new Edit("show.remove", key, [new ShowDropped(key)], Describe(policy, old)) { Detail = Detail.Of(ShowDraft.Of(old), null) }, old);

    /// <summary>Writes down that a file was put into the folder of a show.</summary>
    public static Edit<bool> Filed(Show show, string path) => new(new Edit("show.file", show.Key, [new ShowFileChanged(show.Key, path)], null, path), true);

    /// <summary>Writes down that a file of a show was removed.</summary>
    public static Edit<bool> Unfiled(Show show, string path) =>
        new(new Edit("show.file-remove", show.Key, [new ShowFileChanged(show.Key, path)], path), true);

    /// <summary>That there is no show of that name, and which is near.</summary>
    public static Problem Unknown(Policy policy, string key) => Nearest.To(key, ShowBook.Of(policy).All.Select(s => s.Key)) is { } near
        ? Problem.Of(ProblemKind.NotFound, "show-unknown-near", key, near) : Problem.Of(ProblemKind.NotFound, "show-unknown", key);

    /// <summary>What nobody says stays: all episodes, or since when one of them is out.</summary>
    private static ShowDraft Kept(ShowDraft draft, Show? old)
    {
        if (old is null)
        {
            return draft;
        }

        var there = ShowDraft.Of(old).Episodes!;
        return draft with
        {
            Episodes = draft.Episodes?.Select(
                e => e is { At: null } ? e with { At = there.FirstOrDefault(t => t.Item == e.Item?.Trim())?.At } : e).ToList() ?? there,
        };
    }

    private static bool IsSame(Show old, Show fresh) => old.Episodes.SequenceEqual(fresh.Episodes)
        && old == fresh with { Episodes = old.Episodes, Version = old.Version };

    private static string Describe(Policy policy, Show show) => $"{policy.Graph.Find(show.Item)?.Title ?? show.Key}: {show.Episodes.Count}";
}
