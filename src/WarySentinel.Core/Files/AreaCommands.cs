using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Files;

/// <summary>Adds, changes and removes areas, and gives them other addresses.</summary>
public static class AreaCommands
{
    /// <summary>Most areas of a site.</summary>
    public const int Most = 500;

    /// <summary>Stores an area; one of that key is replaced and keeps its present address.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    /// <param name="run">Stands for its addresses where it is new.</param>
    /// <param name="now">The time.</param>
    public static Outcome<Edit<Area>> Put(Policy policy, AreaDraft draft, int? version, Guid run, DateTimeOffset now)
    {
        var (book, read) = (AreaBook.Of(policy), draft.Read(policy, now));
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var old = book.Find(read.Value.Key);
        if (version is { } seen && seen != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", read.Value.Key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "areas-many", Most);
        }

        var fresh = old is null ? read.Value with { Run = run } : Kept(policy, old, read.Value, now);
        return old is not null && fresh == old with { Version = fresh.Version } ? new Edit<Area>(new Edit("area.set", old.Key, []), old)
            : new Edit<Area>(
                new Edit(old is null ? "area.add" : "area.set", fresh.Key, [new AreaPut(fresh)], old?.Title, fresh.Title)
                {
                    Detail = Detail.Of(old is null ? null : AreaDraft.Of(old), AreaDraft.Of(fresh)),
                },
                fresh);
    }

    /// <summary>Gives an area another address at once. The ones before lead nowhere from now on.</summary>
    public static Outcome<Edit<Area>> Change(Policy policy, string key, Guid run, DateTimeOffset now)
    {
        if (AreaBook.Of(policy).Find(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        var fresh = old with { Run = run, Since = now, First = 0, Version = old.Version + 1 };
        return new Edit<Area>(new Edit("area.change", key, [new AreaPut(fresh)], null, old.Title), fresh);
    }

    /// <summary>Removes an area. Its files stay where they are.</summary>
    public static Outcome<Edit<Area>> Remove(Policy policy, string key) => AreaBook.Of(policy).Find(key) is not { } old ? Unknown(policy, key)
        : new Edit<Area>(new Edit("area.remove", key, [new AreaDropped(key)], old.Title) { Detail = Detail.Of(AreaDraft.Of(old), null) }, old);

    /// <summary>Writes down that a file was put into an area.</summary>
    public static Edit<bool> Filed(Area area, string path) => new(new Edit("area.file", area.Key, [new AreaFileChanged(area.Key, path)], null, path), true);

    /// <summary>Writes down that a file of an area was removed.</summary>
    public static Edit<bool> Unfiled(Area area, string path) =>
        new(new Edit("area.file-remove", area.Key, [new AreaFileChanged(area.Key, path)], path), true);

    /// <summary>That there is no area of that name, and which is near.</summary>
    public static Problem Unknown(Policy policy, string key) => Nearest.To(key, AreaBook.Of(policy).All.Select(a => a.Key)) is { } near
        ? Problem.Of(ProblemKind.NotFound, "area-unknown-near", key, near) : Problem.Of(ProblemKind.NotFound, "area-unknown", key);

    /// <summary>What was told stays right: an address goes on where how long it lasts is set anew, and so does the one before it.</summary>
    private static Area Kept(Policy policy, Area old, Area wanted, DateTimeOffset now)
    {
        var next = wanted with { Run = old.Run, Since = old.Since, First = old.First, Version = old.Version + 1 };
        if (old.Every == wanted.Every)
        {
            return next;
        }

        var term = old.TermAt(new SiteDates(policy.Settings.TimeZone), now);
        return next with { Since = term.From, First = term.Number };
    }
}
