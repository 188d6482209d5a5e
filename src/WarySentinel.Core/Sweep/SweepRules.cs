using System.Text.RegularExpressions;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Sweep;

/// <summary>The way by which the sweep asks for an address.</summary>
public enum SweepVia
{
    /// <summary>The address that visitors type.</summary>
    Public,
    /// <summary>Straight at the guarded site, around the service.</summary>
    Origin,
    /// <summary>Through a page cache in front.</summary>
    Cache,
    /// <summary>In a browser that runs the scripts of a page.</summary>
    Browser,
}

/// <summary>What the sweep found wrong.</summary>
public enum SweepKind
{
    /// <summary>Reachable though guarded.</summary>
    Reachable,
    /// <summary>Reachable under another spelling of an address that is guarded.</summary>
    Spelled,
    /// <summary>Named in a page though hidden.</summary>
    Listed,
    /// <summary>Told of on a page though hidden: its link is gone, and what stood around it is left.</summary>
    Husk,
    /// <summary>The text of a guarded page stands somewhere else.</summary>
    Copied,
    /// <summary>Data tell the title of something hidden.</summary>
    Told,
    /// <summary>The source of the whole site can be fetched.</summary>
    Source,
    /// <summary>A price stands there that is closed.</summary>
    Priced,
    /// <summary>A guarded answer that shared caches may keep.</summary>
    Cacheable,
    /// <summary>The guarded site gives it out around the service.</summary>
    Around,
    /// <summary>Closed though it should be open.</summary>
    Closed,
    /// <summary>Nothing is there, or it did not answer.</summary>
    Missing,
}

/// <summary>An address to be asked for.</summary>
/// <param name="Address">Path and query.</param>
/// <param name="Item">The item it belongs to, or null.</param>
/// <param name="Guarded">Whether any gate guards it.</param>
public sealed record SweepTarget(string Address, ItemId? Item, bool Guarded);

/// <summary>Why something that outsiders get was not read, or not to its end.</summary>
public enum SweepUnread
{
    /// <summary>It was read.</summary>
    None,

    /// <summary>There is more of it than is read.</summary>
    Long,

    /// <summary>It is packed or locked so that it could not be opened.</summary>
    Locked,

    /// <summary>Reading it took too long.</summary>
    Slow,
}

/// <summary>What came back.</summary>
/// <param name="Status">The HTTP status; 0 where nothing came.</param>
/// <param name="CacheControl">The header of that name.</param>
/// <param name="Location">Where a redirect leads.</param>
/// <param name="Text">The body, where it is text; cut at a bound.</param>
/// <param name="Headers">What the other headers say, a line each.</param>
/// <param name="Print">What its bytes come to, where it is no text; else 0.</param>
/// <param name="Within">Words that stand in it, where it is no text; else null.</param>
public sealed record Sighting(
    int Status, string CacheControl = "", string? Location = null, string? Text = null, string Headers = "", ulong Print = 0, string? Within = null)
{
    /// <summary>Why the body could not be read, or not to its end.</summary>
    public SweepUnread Unread { get; init; }

    /// <summary>Whether what was asked for came.</summary>
    public bool IsGood => Status is >= 200 and < 300;
}

/// <summary>One thing that is wrong.</summary>
/// <param name="Kind">What sort.</param>
/// <param name="Address">The address asked for.</param>
/// <param name="Item">The item, or null.</param>
/// <param name="As">The viewpoint.</param>
/// <param name="Via">The way.</param>
/// <param name="Gate">The gate that should have kept them out, where one is concerned.</param>
/// <param name="What">What is wrong, in a sentence.</param>
/// <param name="Mend">What to do.</param>
public sealed record SweepFinding(SweepKind Kind, string Address, string? Item, string As, SweepVia Via, string? Gate, string What, string Mend)
{
    /// <summary>Whether somebody gets what they must not.</summary>
    public bool IsLeak => Kind is not (SweepKind.Closed or SweepKind.Missing);
}

/// <summary>What is asked for in a sweep, and what the answers mean: compared with what the policy decides.</summary>
public static partial class SweepRules
{
    private const int MostNamed = 5;

    /// <summary>Every literal address of the catalogue, guarded ones first, and the pages that list others.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="now">The time.</param>
    /// <param name="most">At most so many.</param>
    /// <returns>The targets, and how many were left out.</returns>
    public static (IReadOnlyList<SweepTarget> Targets, int LeftOut) Targets(Policy policy, DateTimeOffset now, int most)
    {
        var found = new Dictionary<string, SweepTarget>(StringComparer.Ordinal);
        void Add(string text, ItemId? item)
        {
            if (RequestPath.TryNormalise(text, policy.Settings.Paths, out var path, out _))
            {
                found.TryAdd(path.SentWithQuery,
                    new SweepTarget(path.SentWithQuery, item, policy.Judge(Visitor.Guest, path, now).Guarded || !policy.Allows(Nobody, path, Acts.List, now)));
            }
        }

        Add("/", ItemId.Site);
        Add("/sitemap.xml", null);
        // What a gate covers by its address is asked for though no item has it.
        foreach (var cover in policy.Gates.SelectMany(g => g.Covers).Select(c => c.Path).OfType<Address>())
        {
            Add(LiteralOf(cover), null);
        }

        foreach (var item in policy.Graph.Items)
        {
            foreach (var address in item.Addresses.Where(a => !a.IsPattern))
            {
                Add(address.Text, item.Id);
            }
        }

        var ordered = found.Values.OrderByDescending(t => t.Guarded || t.Item == ItemId.Site || t.Item is null)
            .ThenBy(t => t.Address, StringComparer.Ordinal).ToList();
        return ([.. ordered.Take(most)], Math.Max(0, ordered.Count - most));
    }

    /// <summary>Gates in force of which nothing can be seen from outside: they cover no address that is known.</summary>
    public static IEnumerable<Gate> Unseen(Policy policy, DateTimeOffset now) => policy.Gates.Where(g => !g.IsExemption && g.IsInForce(now)
        && (g.Guards & (Acts.Open | Acts.Download | Acts.Listen | Acts.List)) != 0
        && g.Covers.All(c => c.Path is null && (c.Item is not { } item || policy.Graph.PlaceOf(item) is not (>= 0 and var place)
            || policy.Graph.Branch(place).All(at => policy.Graph.Items[at].Addresses.Count == 0))));

    /// <summary>Whether a gate has a say in what is at an address.</summary>
    public static bool IsBy(Policy policy, SweepTarget target, string gate, DateTimeOffset now) =>
        RequestPath.TryNormalise(target.Address, policy.Settings.Paths, out var path, out _)
            && policy.Decide(Visitor.Guest, path, Acts.Open, now).Reasons.Any(r => r.Gate.Key == gate);

    /// <summary>The address itself, or of a pattern what stands before its first star, as a folder.</summary>
    private static string LiteralOf(Address address) => !address.IsPattern ? address.Text
        : address.PathText.IndexOfAny(['*', '[']) is > 0 and var star ? address.PathText[..(address.PathText.LastIndexOf('/', star) + 1)] : "/";

    /// <summary>
    /// Other spellings under which an origin may give out the page of a guarded address: with and without a slash, by the names of index files,
    /// with .html, in upper case, with a doubled slash. Those that belong to another item are left out.
    /// </summary>
    public static IReadOnlyList<string> Spellings(Policy policy, SweepTarget target)
    {
        var mark = target.Address.IndexOf('?', StringComparison.Ordinal);
        var (path, query) = mark < 0 ? (target.Address, "") : (target.Address[..mark], target.Address[mark..]);
        var bare = path.TrimEnd('/');
        var folder = bare + "/";
        var last = bare[(bare.LastIndexOf('/') + 1)..];
        IEnumerable<string> all =
        [
            .. bare.Length == 0 ? [] : new[] { bare, folder, bare + ".html", bare.ToUpperInvariant(), "/" + bare, bare[..^last.Length] + "/" + last },
            .. last.Contains('.', StringComparison.Ordinal) ? []
            : policy.Settings.Paths.IndexNames.Union(PathRules.UsualIndexNames).Select(name => folder + name),
            .. bare.Length == 0 ? [] : FreedNames(policy).Select(name => folder + name),
        ];
        return [.. all.Distinct().Where(p => p != path && IsOwn(p + query)).Select(p => p + query)];

        bool IsOwn(string spelling) => !RequestPath.TryNormalise(spelling, policy.Settings.Paths, out var read, out _)
            || policy.ItemsAt(read) is var items && (items.Count == 0 || target.Item is null || items.Any(i => i.Id == target.Item.Value));
    }

    /// <summary>
    /// Names that an exemption for files of a sort frees at any address, such as <c>x.css</c>: some origins give a page out under whatever stands behind it.
    /// </summary>
    private static IEnumerable<string> FreedNames(Policy policy) => policy.Gates.Where(g => g.IsExemption).SelectMany(g => g.Covers)
        .Select(c => c.Path).OfType<Address>().Where(a => a.PathText.Contains("**/", StringComparison.Ordinal))
        .Select(a => a.PathText[(a.PathText.LastIndexOf('/') + 1)..]).Where(name => name.StartsWith('*') && name.Length > 1 && !name.Contains('['))
        .Select(name => "wary" + name.Replace("*", "", StringComparison.Ordinal)).Distinct(StringComparer.Ordinal);

    /// <summary>What is wrong where an outsider gets a page under another spelling of an address that is closed to them.</summary>
    public static SweepFinding Spelled(Policy policy, SweepTarget target, string spelling, string who, SweepVia via, int status, DateTimeOffset now)
    {
        var gate = GateAt(policy, target.Address, now);
        return new SweepFinding(
            SweepKind.Spelled, spelling, target.Item?.ToString(), who, via, gate?.Key, Words.Of("sweep.spelled", target.Address, status),
            Words.Of("sweep.mend-spelled", gate?.Title, spelling, target.Address));
    }

    /// <summary>What is wrong with an answer.</summary>
    /// <param name="policy">The policy that decides.</param>
    /// <param name="visitor">As whom it was asked.</param>
    /// <param name="who">The viewpoint's name.</param>
    /// <param name="target">What was asked for.</param>
    /// <param name="via">The way.</param>
    /// <param name="seen">What came back.</param>
    /// <param name="hosts">The hosts under which the site is known.</param>
    /// <param name="reserved">Path prefixes of the service itself.</param>
    /// <param name="now">The time.</param>
    public static IEnumerable<SweepFinding> Judge(
        Policy policy, Visitor visitor, string who, SweepTarget target, SweepVia via, Sighting seen, IReadOnlySet<string> hosts,
        IReadOnlyList<string> reserved, DateTimeOffset now)
    {
        RequestPath.TryNormalise(target.Address, policy.Settings.Paths, out var path, out _);
        var decision = policy.Decide(visitor, path!, Acts.Open, now);
        var gate = decision.Refusal?.Gate;
        var isGood = seen.IsGood;
        SweepFinding Finding((SweepKind Kind, string Word, object Value) of) => new(
            of.Kind, target.Address, target.Item?.ToString(), who, via, gate?.Key, Words.Of("sweep." + of.Word, of.Value),
            Words.Of("sweep.mend-" + of.Word, gate?.Title, target.Address));
        if (seen.Status == 0 || seen.Status is 404 or 410 or >= 500)
        {
            return decision.Allowed && via != SweepVia.Origin ? [Finding((SweepKind.Missing, "missing", seen.Status))] : [];
        }

        if (!decision.Allowed || via == SweepVia.Origin)
        {
            return !decision.Allowed && isGood ? [Finding(Reached(via, seen.Status))] : [];
        }

        if (IsRefusal(seen, reserved))
        {
            return [Finding((SweepKind.Closed, "closed", seen.Status))];
        }

        var hidden = isGood ? HiddenIn(policy, visitor, seen, hosts, reserved, now) : [];
        return Given(isGood && policy.Judge(visitor, path!, now).Guarded, seen.CacheControl, hidden, via).Select(Finding);
    }

    /// <summary>What is wrong where a page tells of what is hidden, though it names no address of it.</summary>
    public static SweepFinding Left(SweepTarget target, string who, SweepVia via, IReadOnlyList<string> left) => new(
        SweepKind.Husk, target.Address, target.Item?.ToString(), who, via, null, Words.Of("sweep.husk", Shortened(left)),
        Words.Of("sweep.mend-husk", null, target.Address));

    /// <summary>What is hidden from somebody and named in an answer all the same.</summary>
    private static List<string> HiddenIn(
        Policy policy, Visitor visitor, Sighting seen, IReadOnlySet<string> hosts, IReadOnlyList<string> reserved, DateTimeOffset now) =>
        [.. Named(seen.Headers + seen.Text, hosts).Where(a => IsHidden(policy, visitor, a, reserved, now)).Distinct()];

    /// <summary>What is wrong where a refusal, or the page that says that nothing is there, names what is hidden: other than what was asked for.</summary>
    public static IEnumerable<SweepFinding> NamedInRefusal(
        Policy policy, Visitor visitor, string who, SweepTarget target, SweepVia via, Sighting seen, IReadOnlySet<string> hosts,
        IReadOnlyList<string> reserved, DateTimeOffset now)
    {
        var asked = target.Address.Split('?')[0].TrimEnd('/');
        var hidden = HiddenIn(policy, visitor, seen, hosts, reserved, now).Where(a => a.Split('?')[0].TrimEnd('/') != asked).ToList();
        return hidden.Count == 0 ? [] : [new SweepFinding(
            SweepKind.Listed, target.Address, target.Item?.ToString(), who, via, null, Words.Of("sweep.listed-refused", seen.Status, Shortened(hidden)),
            Words.Of("sweep.mend-listed-refused", null, target.Address))];
    }

    /// <summary>What is wrong where a refusal says what it refuses: a redirect or an error with the page behind it.</summary>
    public static SweepFinding SaidInRefusal(Policy policy, SweepTarget target, SweepVia via, int status, Copied own, DateTimeOffset now)
    {
        var gate = GateAt(policy, target.Address, now);
        return new SweepFinding(
            SweepKind.Reachable, target.Address, target.Item?.ToString(), "guest", via, gate?.Key, Words.Of("sweep.said-refused", status, own.Sample),
            Words.Of("sweep.mend-said-refused", gate?.Title, target.Address));
    }

    /// <summary>What is wrong where an outsider gets what is closed to them by asking in another way.</summary>
    public static SweepFinding Otherwise(Policy policy, SweepTarget target, SweepVia via, string way, int status, DateTimeOffset now)
    {
        var gate = GateAt(policy, target.Address, now);
        return new SweepFinding(
            SweepKind.Reachable, target.Address, target.Item?.ToString(), "guest", via, gate?.Key, Words.Of("sweep.otherwise", way, status),
            Words.Of("sweep.mend-otherwise", gate?.Title, target.Address));
    }

    /// <summary>What is wrong where somebody reads prices that are closed to them.</summary>
    public static SweepFinding Priced(
        Policy policy, Visitor visitor, string who, SweepTarget target, SweepVia via, IReadOnlyList<ShownPrice> shown, DateTimeOffset now)
    {
        var gate = policy.Decide(visitor, shown[0].Item, Acts.Price, now) is { IsGood: true, Value: var of } ? of.Refusal?.Gate : null;
        return new SweepFinding(
            SweepKind.Priced, target.Address, target.Item?.ToString(), who, via, gate?.Key,
            Words.Of("sweep.priced", Shortened([.. shown.Select(s => $"{s.Item} ({s.Amount})")])), Words.Of("sweep.mend-priced", gate?.Title, target.Address));
    }

    /// <summary>What is wrong where anybody can fetch the source of the site.</summary>
    public static SweepFinding SourceAt(SweepTarget target, SweepVia via) => new(
        SweepKind.Source, target.Address, null, "guest", via, null, Words.Of("sweep.source"),
        Words.Of("sweep.mend-source", null, target.Address[..(target.Address.IndexOf('/', 1) + 1)]));

    private static Gate? GateAt(Policy policy, string address, DateTimeOffset now) =>
        RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _) ? policy.Decide(Visitor.Guest, path, Acts.Open, now).Refusal?.Gate : null;

    /// <summary>What is wrong where an outsider gets the text of guarded pages under another address.</summary>
    public static SweepFinding Copied(Policy policy, SweepTarget target, SweepVia via, IReadOnlyList<Copied> copies, DateTimeOffset now)
    {
        var gate = GateAt(policy, copies[0].Of, now);
        return new SweepFinding(
            SweepKind.Copied, target.Address, target.Item?.ToString(), "guest", via, gate?.Key,
            Words.Of("sweep.copied", Shortened([.. copies.Select(c => c.Of)]), copies[0].Sample), Words.Of("sweep.mend-copied", gate?.Title, target.Address));
    }

    /// <summary>What is wrong where data tell outsiders titles of what is hidden from them.</summary>
    public static SweepFinding Told(SweepTarget target, SweepVia via, IReadOnlyList<string> items) => new(
        SweepKind.Told, target.Address, target.Item?.ToString(), "guest", via, null, Words.Of("sweep.told", Shortened(items)),
        Words.Of("sweep.mend-told", null, target.Address));

    /// <summary>What is wrong where an outsider gets a guarded file under another address.</summary>
    public static SweepFinding SameFile(Policy policy, SweepTarget target, SweepVia via, string of, DateTimeOffset now)
    {
        var gate = GateAt(policy, of, now);
        return new SweepFinding(
            SweepKind.Copied, target.Address, target.Item?.ToString(), "guest", via, gate?.Key, Words.Of("sweep.same-file", of),
            Words.Of("sweep.mend-copied", gate?.Title, target.Address));
    }

    private static string Shortened(IReadOnlyList<string> all) => string.Join(", ", all.Take(MostNamed))
        + (all.Count > MostNamed ? Words.Of("sweep.and-more", all.Count - MostNamed) : "");

    /// <summary>What is wrong where somebody gets what is closed to them.</summary>
    private static (SweepKind Kind, string Word, object Value) Reached(SweepVia via, int status) => via switch
    {
        SweepVia.Origin => (SweepKind.Around, "around", status),
        SweepVia.Cache => (SweepKind.Reachable, "cached", status),
        _ => (SweepKind.Reachable, "reachable", status),
    };

    private static bool IsRefusal(Sighting seen, IReadOnlyList<string> reserved) => seen.Status is 401 or 403 || (seen.Status is 302 or 303 or 307
        && reserved.Any(r => seen.Location?.Contains(r + "/", StringComparison.OrdinalIgnoreCase) == true));

    /// <summary>What is wrong with a page that somebody gets who may: that a cache may keep it, or that it names what is hidden from them.</summary>
    private static IEnumerable<(SweepKind Kind, string Word, object Value)> Given(bool guarded, string cacheControl, List<string> hidden, SweepVia via)
    {
        if (guarded && !cacheControl.Contains("no-store", StringComparison.OrdinalIgnoreCase)
            && !cacheControl.Contains("private", StringComparison.OrdinalIgnoreCase))
        {
            yield return (SweepKind.Cacheable, "cacheable", cacheControl.Length == 0 ? "—" : cacheControl);
        }

        if (hidden.Count > 0)
        {
            yield return (
                SweepKind.Listed, via switch { SweepVia.Cache => "listed-cached", SweepVia.Browser => "listed-drawn", _ => "listed" }, Shortened(hidden));
        }
    }

    private static Visitor Nobody { get; } = new() { IsViewpoint = true };

    private static bool IsReserved(RequestPath path, IReadOnlyList<string> reserved) =>
        reserved.Any(r => path.Key.Equals(r, StringComparison.OrdinalIgnoreCase) || path.Key.StartsWith(r + "/", StringComparison.OrdinalIgnoreCase));

    /// <summary>Whether an address leads to something that a visitor may not know of.</summary>
    public static bool IsHidden(Policy policy, Visitor visitor, string address, IReadOnlyList<string> reserved, DateTimeOffset now) =>
        RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _) && !IsReserved(path, reserved)
            && !policy.Allows(visitor, path, Acts.List, now);

    /// <summary>Addresses on the site that a text names, whatever sort of text it is.</summary>
    private static IEnumerable<string> Named(string text, IReadOnlySet<string> hosts)
    {
        // JSON may write its slashes escaped, HTML its ampersands.
        text = text.Replace("\\/", "/", StringComparison.Ordinal).Replace("&amp;", "&", StringComparison.Ordinal);
        foreach (var match in Address().In(text))
        {
            var host = match.Groups["host"].Value;
            if (host.Length == 0 || hosts.Contains(host))
            {
                var address = match.Groups["path"].Value.Split('#')[0];
                // That there is a site is no secret; scripts write a slash for many things.
                if (address.AsSpan().ContainsAnyExcept("/."))
                {
                    yield return address;
                }
            }
        }
    }

    [GeneratedRegex("""(?<=["'><(=,\s])(?:(?:https?:)?//(?<host>[^/"'<>\s?#]+))?(?<path>/[^"'<>\s)\\]*)""", RegexOptions.None, PatientMatches.Longest)]
    private static partial Regex Address();
}
