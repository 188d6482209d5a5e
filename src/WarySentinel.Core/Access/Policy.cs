using System.Diagnostics.CodeAnalysis;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>What an owner sets once for the whole site.</summary>
public sealed record SiteSettings
{
    /// <summary>What the site is called.</summary>
    public string SiteName { get; init; } = "This site";

    /// <summary>How the pages that visitors see are dressed.</summary>
    public SiteLook Look { get; init; } = new();

    /// <summary>Whether <c>owner</c> and <c>editor</c> pass every gate.</summary>
    public bool StaffPasses { get; init; } = true;

    /// <summary>How the origin reads paths.</summary>
    public PathRules Paths { get; init; } = new();

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;
}

/// <summary>How sign-in pages and the like are dressed, so that they look like part of the site.</summary>
public sealed record SiteLook
{
    /// <summary>The accent colour, as <c>#rrggbb</c>.</summary>
    public string Accent { get; init; } = "#8a5a00";

    /// <summary>The colour behind the panel, as <c>#rrggbb</c>.</summary>
    public string Background { get; init; } = "#f7f3ea";

    /// <summary>A second colour for a soft sky behind the panel, or null for a plain one.</summary>
    public string? Sky { get; init; }

    /// <summary>Links of the page's head: address on this site and words.</summary>
    public IReadOnlyList<SiteLink> Links { get; init; } = [];

    /// <summary>A picture at the head of the page: an address on this site.</summary>
    public string? Logo { get; init; }
}

/// <summary>A link of the site's own menu.</summary>
public sealed record SiteLink(string Address, string Words);

/// <summary>A role, group or plan that audiences may name.</summary>
public sealed record Standing(FactKind Kind, string Key, string Title, int Version = 1);

/// <summary>
/// An immutable snapshot of everything that decides: catalogue, gates, settings. The only place where decisions are made.
/// Safe for any number of threads.
/// </summary>
public sealed class Policy
{
    private volatile PolicyMoment? current;

    private Policy(CatalogueGraph graph, IReadOnlyList<Gate> gates, IReadOnlyList<Standing> standings, SiteSettings settings) =>
        (Graph, Gates, Standings, Settings) = (graph, gates, standings, settings);

    /// <summary>The catalogue.</summary>
    public CatalogueGraph Graph { get; }

    /// <summary>Gates and exemptions, ordered by key.</summary>
    public IReadOnlyList<Gate> Gates { get; }

    /// <summary>Roles, groups and plans, ordered by kind and key.</summary>
    public IReadOnlyList<Standing> Standings { get; }

    /// <summary>The settings of the site.</summary>
    public SiteSettings Settings { get; }

    /// <summary>A policy that guards nothing.</summary>
    public static Policy Empty { get; } = Build([], [], [], new SiteSettings()).Value;

    /// <summary>Builds a snapshot, or says what does not fit together.</summary>
    public static Outcome<Policy> Build(IEnumerable<Item> items, IEnumerable<Gate> gates, IEnumerable<Standing> standings, SiteSettings settings)
    {
        var graph = CatalogueGraph.Build(items, settings.Paths);
        return graph.IsGood ? With(graph.Value, gates, standings, settings) : graph.Problem!;
    }

    /// <summary>The same catalogue under other gates.</summary>
    public Policy With(IEnumerable<Gate> gates) => With(Graph, gates, Standings, Settings).Value;

    /// <summary>The policy as it stands after an edit; the catalogue is built again only when items change.</summary>
    public Policy After(Edit edit)
    {
        var gates = Gates.ToDictionary(g => g.Key, StringComparer.Ordinal);
        var standings = Standings.ToDictionary(s => (s.Kind, s.Key));
        var settings = Settings;
        Dictionary<ItemId, Item>? items = null;
        foreach (var change in edit.Changes)
        {
            switch (change)
            {
                case Change.GatePut put:
                    gates[put.Gate.Key] = put.Gate;
                    break;
                case Change.GateDropped dropped:
                    gates.Remove(dropped.Key);
                    break;
                case Change.ItemsPut put:
                    items ??= Graph.Items.ToDictionary(i => i.Id);
                    foreach (var item in put.Items)
                    {
                        items[item.Id] = item;
                    }

                    break;
                case Change.ItemDropped dropped:
                    (items ??= Graph.Items.ToDictionary(i => i.Id)).Remove(dropped.Id);
                    break;
                case Change.StandingPut put:
                    standings[(put.Standing.Kind, put.Standing.Key)] = put.Standing;
                    break;
                case Change.StandingDropped dropped:
                    standings.Remove((dropped.Kind, dropped.Key));
                    break;
                case Change.SettingsPut put:
                    settings = put.Settings;
                    break;
                default:
                    break;
            }
        }

        return items is null && settings.Paths == Settings.Paths
            ? With(Graph, gates.Values, standings.Values, settings).Value
            : Build(items?.Values ?? (IEnumerable<Item>)Graph.Items, gates.Values, standings.Values, settings).Value;
    }

    /// <summary>The gate of that key, or null.</summary>
    public Gate? FindGate(string key) => Gates.FirstOrDefault(g => g.Key == key);

    /// <summary>The compiled form that holds at a time; kept until a gate starts or ends.</summary>
    internal PolicyMoment At(DateTimeOffset now)
    {
        var kept = current;
        if (kept is not null && kept.Covers(now))
        {
            return kept;
        }

        var made = PolicyMoment.Compile(Graph, Gates, Settings.Paths, now);
        if (kept is null || made.From > kept.From)
        {
            current = made;
        }

        return made;
    }

    /// <summary>Whether the visitor may do the act on the item. False for an item that is not there.</summary>
    public bool Allows(Visitor visitor, ItemId item, Acts act, DateTimeOffset now)
    {
        var place = Graph.PlaceOf(item);
        return place >= 0 && Allows(visitor, place, act, now);
    }

    /// <summary>Whether the visitor may do the act on the item at a place of the graph.</summary>
    public bool Allows(Visitor visitor, int place, Acts act, DateTimeOffset now) =>
        Admits(At(now).OnItem(place), visitor, act, now) || (Settings.StaffPasses && visitor.IsStaff(now));

    /// <summary>How the item at a place meets the visitor.</summary>
    public Sight SightOf(Visitor visitor, int place, DateTimeOffset now) =>
        Allows(visitor, place, Acts.Open, now) ? (Allows(visitor, place, Acts.List, now) ? Sight.Open : Sight.Hidden)
        : Allows(visitor, place, Acts.List, now) ? Sight.Listed : Sight.Hidden;

    /// <summary>Decides about an item, with reasons. A problem when the item is not there.</summary>
    public Outcome<Decision> Decide(Visitor visitor, ItemId item, Acts act, DateTimeOffset now)
    {
        var place = Graph.PlaceOf(item);
        return place < 0
            ? Problem.Of(ProblemKind.NotFound, "item-unknown", item)
            : Conclude(visitor, [place], At(now).ReasonsOnItem(place), act, now);
    }

    /// <summary>Decides about the address of a request, with reasons. Several acts must all be allowed.</summary>
    public Decision Decide(Visitor visitor, RequestPath path, Acts act, DateTimeOffset now)
    {
        var found = Graph.Addresses.Find(path);
        return Conclude(visitor, found.Places, At(now).ReasonsOnPath(path, found), act, now);
    }

    /// <summary>Reads a raw request target and finds what applies to it; false when it has no single reading.</summary>
    public bool TryResolve(string target, DateTimeOffset now, [NotNullWhen(true)] out ResolvedRequest? request, out PathFault fault)
    {
        (request, fault) = At(now).Resolve(target);
        return request is not null;
    }

    /// <summary>Whether the visitor may have what the address gives, and whether anybody might not; without reasons.</summary>
    public (bool Allowed, bool Guarded) Judge(Visitor visitor, ResolvedRequest request, DateTimeOffset now)
    {
        var guarded = false;
        var allowed = true;
        for (var i = 0; i < request.Gates.Count; i++)
        {
            var gate = request.Gates[i];
            if ((gate.Guards & request.Act) != 0)
            {
                guarded = true;
                allowed = allowed && gate.Audience.Admits(visitor, gate.Key, now);
            }
        }

        return (allowed || (Settings.StaffPasses && visitor.IsStaff(now)), guarded);
    }

    /// <summary>The same for a path in normal form.</summary>
    public (bool Allowed, bool Guarded) Judge(Visitor visitor, RequestPath path, DateTimeOffset now)
    {
        var (gates, act) = At(now).Resolve(path);
        return Judge(visitor, new ResolvedRequest(path, gates, act), now);
    }

    /// <summary>Decides about a request for an address: opening it, and downloading or listening where that is what the address gives.</summary>
    public Decision DecideRequest(Visitor visitor, RequestPath path, DateTimeOffset now)
    {
        var found = Graph.Addresses.Find(path);
        return Conclude(visitor, found.Places, At(now).ReasonsOnPath(path, found), PolicyMoment.ActsAt(Graph, found), now);
    }

    /// <summary>Whether the visitor may do the act at the address, without reasons.</summary>
    public bool Allows(Visitor visitor, RequestPath path, Acts act, DateTimeOffset now)
    {
        var moment = At(now);
        if (!moment.GuardsAnything || (Settings.StaffPasses && visitor.IsStaff(now)))
        {
            return true;
        }

        return Admits(moment.Resolve(path).Gates, visitor, act, now);
    }

    /// <summary>The items that the address of a request belongs to.</summary>
    public IReadOnlyList<Item> ItemsAt(RequestPath path) => [.. Graph.Addresses.Find(path).Places.Select(p => Graph.Items[p])];

    /// <summary>Whether other requirements apply to the item at a place under another policy over the same catalogue.</summary>
    internal bool AppliesOtherwise(Policy other, int place, DateTimeOffset now) => !At(now).OnItem(place).AsSpan().SequenceEqual(other.At(now).OnItem(place));

    /// <summary>Whether any gate in force is there at all.</summary>
    public bool GuardsAnything(DateTimeOffset now) => At(now).GuardsAnything;

    private static Outcome<Policy> With(CatalogueGraph graph, IEnumerable<Gate> gates, IEnumerable<Standing> standings, SiteSettings settings) =>
        new Policy(graph, [.. gates.OrderBy(g => g.Key, StringComparer.Ordinal)], [.. standings.OrderBy(s => s.Kind).ThenBy(s => s.Key, StringComparer.Ordinal)], settings);

    private static bool Admits(Gate[] requirements, Visitor visitor, Acts act, DateTimeOffset now)
    {
        foreach (var gate in requirements)
        {
            if ((gate.Guards & act) != 0 && !gate.Audience.Admits(visitor, gate.Key, now))
            {
                return false;
            }
        }

        return true;
    }

    private Decision Conclude(Visitor visitor, IReadOnlyList<int> places, IReadOnlyList<PolicyMoment.Reached> reached, Acts act, DateTimeOffset now)
    {
        var reasons = new List<Reason>(reached.Count);
        Reason? refused = null;
        foreach (var one in reached)
        {
            var guards = (one.Gate.Guards & act) != 0;
            var reason = new Reason(one.Gate, one.Way, one.Pattern, one.Gate.Audience.Admits(visitor, one.Gate.Key, now), guards);
            reasons.Add(reason);
            if (refused is null && guards && !reason.Admitted)
            {
                refused = reason;
            }
        }

        var items = places.Select(p => Graph.Items[p].Id).ToList();
        if (refused is null)
        {
            return new Decision(true, false, items, reasons, null);
        }

        return Settings.StaffPasses && visitor.IsStaff(now)
            ? new Decision(true, true, items, reasons, null)
            : new Decision(false, false, items, reasons, new Refusal(refused.Gate, AnswerOf(refused.Gate, visitor)));
    }

    /// <summary>What <c>auto</c> comes to for this visitor.</summary>
    public static Answer AnswerOf(Gate gate, Visitor visitor) => gate.Answer switch
    {
        Answer.Auto when gate.Audience.AsksForPassword => Answer.Password,
        Answer.Auto => visitor.IsSignedIn ? Answer.Message : Answer.SignIn,
        // Somebody who is signed in gains nothing from a sign-in page: they would come straight back to it.
        Answer.SignIn when visitor.IsSignedIn => Answer.Message,
        var set => set,
    };
}
