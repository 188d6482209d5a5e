using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Redirects;

/// <summary>What commands of redirects need to know beside the policy.</summary>
/// <param name="Known">The keys that audiences may name.</param>
/// <param name="Reserved">Path prefixes that this service serves itself, such as <c>/account</c>.</param>
/// <param name="Now">The time.</param>
public sealed record RedirectSurroundings(IKnownKeys Known, IReadOnlyList<string> Reserved, DateTimeOffset Now)
{
    /// <summary>Pages of our own on which somebody can stay; the others send whoever lands there on again.</summary>
    private static readonly IReadOnlyList<string> ToStay = ["", "/", "/opened", "/organisation"];

    /// <summary>Whether an address of our own would send whoever lands there on, or is for machines.</summary>
    public bool SendsOn(string path) => Reserved.FirstOrDefault(p => path == p || path.StartsWith(p + "/", StringComparison.Ordinal)) is { } prefix
        && !ToStay.Contains(path[prefix.Length..]);
}

/// <summary>Adds, orders, changes and removes redirects.</summary>
public static class RedirectCommands
{
    /// <summary>Most redirects of a site.</summary>
    public const int Most = 500;

    /// <summary>Stores a redirect; one of that key is replaced. One that would go round in a ring, or lead nobody anywhere, is refused.</summary>
    public static Outcome<Edit<Redirect>> Put(Policy policy, RedirectDraft draft, RedirectSurroundings around)
    {
        var read = draft.Read(around.Known);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var book = RedirectBook.Of(policy);
        var old = book.All.FirstOrDefault(r => r.Key == read.Value.Key);
        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "redirects-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1, Position = draft.Position ?? old?.Position ?? RedirectDraft.UsualPosition };
        if (LeadsNowhere(policy, fresh, around) is { } fault)
        {
            return fault;
        }

        return new Edit<Redirect>(
            new Edit(old is null ? "redirect.add" : "redirect.set", fresh.Key, [new RedirectPut(fresh)], old is null ? null
            : Describe(old), Describe(fresh))
            {
                Detail = Detail.Of(old is null ? null : RedirectDraft.Of(old), RedirectDraft.Of(fresh)),
            },
            fresh);
    }

    /// <summary>Puts redirects into an order: these keys first, as they are named, the others behind as they stood.</summary>
    public static Outcome<Edit<IReadOnlyList<Redirect>>> Order(Policy policy, IReadOnlyList<string> keys)
    {
        var all = RedirectBook.Of(policy).All;
        var (ordered, unknown) = Ordering.Of(all, r => r.Key, keys);
        if (unknown is not null)
        {
            return Problem.In("keys", "redirect-unknown", unknown);
        }

        var moved = ordered.Select((r, place) => r.Position == Ordering.PositionAt(place) ? r
            : r with { Position = Ordering.PositionAt(place), Version = r.Version + 1 }).ToList();
        var changes = moved.Except(all).Select(r => new RedirectPut(r)).ToList();
        return new Edit<IReadOnlyList<Redirect>>(
            new Edit("redirect.order", "redirects", changes, string.Join(", ", all.Select(r => r.Key)), string.Join(", ", moved.Select(r => r.Key))), moved);
    }

    /// <summary>Removes a redirect.</summary>
    public static Outcome<Edit<Redirect>> Remove(Policy policy, string key) =>
        RedirectBook.Of(policy).All.FirstOrDefault(r => r.Key == key) is not { } old
            ? Problem.Of(ProblemKind.NotFound, "redirect-unknown", key)
            : new Edit<Redirect>(new Edit("redirect.remove", key, [new RedirectDropped(key)], Describe(old))
            { Detail = Detail.Of(RedirectDraft.Of(old), null) }, old);

    /// <summary>
    /// What is wrong with where it leads: round and round, or to a page that nobody whom it is for may open. Such a page is never a landing, so that the
    /// rule would do nothing.
    /// </summary>
    private static Problem? LeadsNowhere(Policy policy, Redirect fresh, RedirectSurroundings around)
    {
        var path = fresh.To.Split('?', '#')[0];
        if (around.SendsOn(path))
        {
            return Problem.In("to", "redirect-ring", path);
        }

        if (path.Contains('{', StringComparison.Ordinal))
        {
            return null;
        }

        var forWhom = Viewpoint.All(policy).Where(v => fresh.Audience.Admits(v.Visitor, "", around.Now)).ToList();
        return forWhom.Count > 0 && !CanBeOpen(policy, path, [.. forWhom.Select(v => v.Visitor)], around.Now)
            ? Problem.In("to", fresh.On == RedirectOn.Refusal ? "redirect-ring-refusal" : "redirect-closed", path) : null;
    }

    /// <summary>Whether one of these could open the page, if with facts beside theirs that its gates ask for. In doubt, yes.</summary>
    private static bool CanBeOpen(Policy policy, string address, IReadOnlyList<Visitor> visitors, DateTimeOffset now)
    {
        if (!RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _))
        {
            return false;
        }

        var gates = policy.Decide(Visitor.Guest, path, Acts.Open, now).Reasons.Where(r => r.Guards).Select(r => r.Gate).ToList();
        var asked = gates.SelectMany(g => g.Audience.FactsAsked()).ToList();
        if (asked.Exists(f => f.Kind is FactKind.Member or FactKind.Pass) || gates.Exists(g => g.Audience.Atoms().Any(a => a is Audience.Network)))
        {
            return true;
        }

        List<Grant> grants = [.. asked.Select(f => new Grant(f.Kind, f.Key)).Distinct()];
        List<Unlock> unlocks = [.. gates.Select(g => new Unlock(g.Key, DateTimeOffset.MaxValue))];
        IEnumerable<IReadOnlyList<Grant>> further = [[], grants, .. grants.Select(g => (IReadOnlyList<Grant>)[g])];
        return visitors.Any(v => further.Any(more => policy.Judge(With(v, more, unlocks), path, now).Allowed));
    }

    private static Visitor With(Visitor visitor, IReadOnlyList<Grant> more, IReadOnlyList<Unlock> unlocks) => new()
    {
        IsSignedIn = visitor.IsSignedIn, Grants = [.. visitor.Grants, .. more], Unlocks = unlocks, IsCrawler = visitor.IsCrawler, IsViewpoint = true,
    };

    private static string Describe(Redirect redirect) =>
        $"{RedirectDraft.Occasions[(int)redirect.On]}, {redirect.Audience}: {redirect.To}{(redirect.Insists ? " !" : "")}";
}
