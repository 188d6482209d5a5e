using System.Diagnostics.CodeAnalysis;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>
/// An immutable snapshot of everything that decides: catalogue, gates, settings. The only place where decisions are made.
/// Safe for any number of threads.
/// </summary>
public sealed class Policy
{
    private const int MostOtherDays = 4;
    private readonly Dictionary<string, Gate> gatesByKey;
    private readonly Dictionary<(FactKind, string), FactDefinition> definitionsByKey;
    private readonly Lazy<IReadOnlyList<Viewpoint>> holders;
    private readonly Lock compiling = new();
    private volatile PolicyMoment? pinned;
    private volatile PolicyMoment[] ahead = [];
    private volatile PolicyMoment? basis;
    private Day[] otherDays = [];

    private Policy(
        CatalogueGraph graph, IReadOnlyList<Gate> gates, IReadOnlyList<FactDefinition> definitions, SiteSettings settings, PolicyParts parts, Policy? kin)
    {
        (Graph, Gates, Definitions, Settings, Parts, basis) = (graph, gates, definitions, settings, parts, kin?.pinned ?? kin?.basis);
        gatesByKey = gates.ToDictionary(g => g.Key, StringComparer.Ordinal);
        var isAlike = ReferenceEquals(definitions, kin?.Definitions);
        definitionsByKey = isAlike ? kin!.definitionsByKey : definitions.ToDictionary(s => (s.Kind, s.Key));
        holders = isAlike && kin!.Settings.Language == settings.Language ? kin.holders : new(() => Viewpoint.Holders(definitions, settings.Language));
    }

    /// <summary>The catalogue.</summary>
    public CatalogueGraph Graph { get; }

    /// <summary>Gates and exemptions, ordered by key.</summary>
    public IReadOnlyList<Gate> Gates { get; }

    /// <summary>Roles, groups and plans, ordered by kind and key.</summary>
    public IReadOnlyList<FactDefinition> Definitions { get; }

    /// <summary>Whoever holds one role, group or plan and nothing else, for each of them, by title; staff not.</summary>
    internal IReadOnlyList<Viewpoint> Holders => holders.Value;

    /// <summary>The settings of the site.</summary>
    public SiteSettings Settings { get; }

    /// <summary>Who is asked for shared passwords, and what rooms above keep.</summary>
    public PolicyParts Parts { get; }

    /// <summary>The rules of groups that have one.</summary>
    public GroupRules Rules => Parts.Of<GroupRules>();

    /// <summary>A policy that guards nothing.</summary>
    public static Policy Empty { get; } = Build([], [], [], new SiteSettings()).Value;

    /// <summary>Builds a snapshot, or says what does not fit together.</summary>
    public static Outcome<Policy> Build(
        IEnumerable<Item> items, IEnumerable<Gate> gates, IEnumerable<FactDefinition> definitions, SiteSettings settings, PolicyParts? parts = null)
    {
        var graph = CatalogueGraph.Build(items, settings.Paths);
        return graph.IsGood ? With(graph.Value, gates, definitions, settings, parts ?? PolicyParts.None) : graph.Problem!;
    }

    /// <summary>The same catalogue under other gates.</summary>
    public Policy With(IEnumerable<Gate> gates) => With(gates, Definitions, Settings, Parts);

    /// <summary>The same catalogue under other gates, roles and settings.</summary>
    internal Policy With(IEnumerable<Gate> gates, IEnumerable<FactDefinition> definitions, SiteSettings settings, PolicyParts parts) =>
        With(Graph, gates, definitions, settings, parts, this);

    /// <summary>The policy as it stands after an edit, or why it would not fit together; the catalogue is built again only when items change.</summary>
    public Outcome<Policy> TryAfter(Edit edit)
    {
        if (edit is CompiledEdit compiled)
        {
            return compiled.Policy;
        }

        var (items, gates, definitions) = (new ItemsDraft(Graph.Items), new GatesDraft(Gates, Settings), new DefinitionsDraft(Definitions));
        var (rules, draft) = (new GroupRulesDraft(), new PolicyDraft());
        foreach (var part in Parts.All.Concat<object>([items, gates, definitions, rules]))
        {
            draft.Set(part);
        }

        foreach (var change in edit.Changes.OfType<Change.OfPolicy>())
        {
            change.ApplyTo(draft);
        }

        var replaced = draft.Part<GroupRules>();
        if (rules.Rules.Count > 0 || !ReferenceEquals(replaced, Rules))
        {
            var all = replaced.After(rules.Rules);
            if (GroupRules.FaultOf(all) is { } fault)
            {
                return fault;
            }

            draft.Set(new GroupRules(all));
        }

        var parts = PolicyParts.Of(draft.Parts.OfType<IPolicyPart>());
        return items.IsChanged || gates.Settings.Paths != Settings.Paths
            ? Build(items.All, gates.Gates.Values, definitions.After, gates.Settings, parts)
            : With(gates.Gates.Values, definitions.After, gates.Settings, parts);
    }

    /// <summary>The gate of that key, or null.</summary>
    public Gate? FindGate(string key) => gatesByKey.GetValueOrDefault(key);

    /// <summary>The key of a gate that covers the item or admits who bought it, or null.</summary>
    public string? GateNaming(ItemId id) => Gates.FirstOrDefault(g => g.Covers.Any(c => c.Item == id)
        || g.Audience.Atoms().Any(a => a is Audience.Fact { Kind: FactKind.Bought } fact && fact.Key == id.ToString()))?.Key;

    /// <summary>What else an item belongs to, that it goes with and not before: a page that is written here, say; null for nothing.</summary>
    public string? Holding(ItemId id) => Parts.All.Select(p => p.Holding(id)).FirstOrDefault(h => h is not null);

    /// <summary>The role, group or plan of that key, or null.</summary>
    public FactDefinition? FindDefinition(FactKind kind, string key) => definitionsByKey.GetValueOrDefault((kind, key));

    /// <summary>
    /// The compiled form that holds at a time. The one in force is pinned by <see cref="Prepare"/>; looks at other days live in a small cache of their
    /// own, so that they push nobody's out, and each is compiled once however many ask.
    /// </summary>
    internal PolicyMoment At(DateTimeOffset now) => pinned is { } held && held.Covers(now) ? held : Elsewhen(now);

    private PolicyMoment Elsewhen(DateTimeOffset now)
    {
        foreach (var next in ahead)
        {
            if (next.Covers(now))
            {
                return next;
            }
        }

        Day mine;
        lock (compiling)
        {
            mine = otherDays.FirstOrDefault(d => d.Covers(now)) ?? new Day(this, now);
            otherDays = [mine, .. otherDays.Where(o => o != mine).Take(MostOtherDays - 1)];
        }

        return mine.Value;
    }

    /// <summary>
    /// Compiles the form that holds at a time ahead of the first question about it, so that no request waits for it, and keeps it: it is the one
    /// in force, or the next.
    /// </summary>
    public void Prepare(DateTimeOffset at)
    {
        if (pinned is { } held && held.Covers(at))
        {
            return;
        }

        var made = Elsewhen(at);
        lock (compiling)
        {
            ahead = [made, .. ahead.Where(m => m != made).Take(1)];
        }
    }

    /// <summary>Pins what holds now; from here on it is found first. What was pinned before it is over.</summary>
    public void Pin(DateTimeOffset now)
    {
        Prepare(now);
        if (pinned is not { } held || !held.Covers(now))
        {
            pinned = Elsewhen(now);
            basis = null;
        }
    }

    /// <summary>A look at another day, compiled by whoever asks first; the others wait for it.</summary>
    private sealed class Day(Policy policy, DateTimeOffset asked)
        : Lazy<PolicyMoment>(() => PolicyMoment.Compile(policy.Graph, policy.Gates, policy.Settings.Paths, asked, policy.pinned ?? policy.basis))
    {
        private readonly (DateTimeOffset From, DateTimeOffset Until) stretch = PolicyMoment.StretchAt(policy.Gates, asked);

        public bool Covers(DateTimeOffset now) => stretch.From <= now && now < stretch.Until;
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

    /// <summary>How items to which just these gates apply meet the visitor.</summary>
    internal Sight SightOf(Visitor visitor, Gate[] gates, DateTimeOffset now)
    {
        var passes = Settings.StaffPasses && visitor.IsStaff(now);
        return !passes && !Admits(gates, visitor, Acts.List, now) ? Sight.Hidden : passes || Admits(gates, visitor, Acts.Open, now) ? Sight.Open : Sight.Listed;
    }

    /// <summary>Decides about an item, with reasons. A problem when the item is not there.</summary>
    public Outcome<Decision> Decide(Visitor visitor, ItemId item, Acts act, DateTimeOffset now)
    {
        var place = Graph.PlaceOf(item);
        return place < 0
            ? Problem.Of(ProblemKind.NotFound, "item-unknown", item)
            : Conclude(visitor, [place], At(now).ReasonsOnItem(place), act, now);
    }

    /// <summary>
    /// Decides about an address, with reasons. To open the address of a download or an episode is to have it: what it gives must be allowed to be
    /// downloaded or listened to as well (docs/explanation/decisions.md, point 1).
    /// </summary>
    public Decision Decide(Visitor visitor, RequestPath path, Acts act, DateTimeOffset now)
    {
        var found = Graph.Addresses.Find(path);
        return Conclude(visitor, found, At(now).ReasonsOnPath(path, found), act == Acts.Open ? PolicyMoment.ActsAt(Graph, found) : act, now, path);
    }

    /// <summary>The gates that a decision did not meet because exemptions lift them, and which do (docs/explanation/decisions.md, point 3).</summary>
    public IReadOnlyList<Lift> LiftsOf(Decision decision, DateTimeOffset now) => decision.Path is { } path
        ? At(now).LiftsOnPath(path, Graph.Addresses.Find(path))
        : decision.Items is [var id] && Graph.PlaceOf(id) is >= 0 and var place ? At(now).LiftsOnItem(place) : [];

    /// <summary>Reads a raw request target and finds what applies to it; false when it has no single reading.</summary>
    public bool TryResolve(string target, DateTimeOffset now, [NotNullWhen(true)] out ResolvedRequest? request, out PathFault fault)
    {
        (request, fault) = At(now).Resolve(target);
        return request is not null;
    }

    /// <summary>Whether the visitor may do the act at an address whose gates are known; to open it is to have what it gives.</summary>
    public bool Allows(Visitor visitor, ResolvedRequest request, Acts act, DateTimeOffset now)
    {
        var attempted = act == Acts.Open ? request.Act : act;
        for (var i = 0; i < request.Gates.Count; i++)
        {
            var gate = request.Gates[i];
            if ((gate.Guards & attempted) != 0 && !gate.Admits(visitor, now))
            {
                return Settings.StaffPasses && visitor.IsStaff(now);
            }
        }

        return true;
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
                allowed = allowed && gate.Admits(visitor, now);
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

    /// <summary>Stands for what is in force at a time: another one wherever a gate begins or ends, and in every other policy.</summary>
    public object StampAt(DateTimeOffset now) => At(now);

    /// <summary>Whether the visitor may do the act at the address, without reasons; to open it is to have what it gives.</summary>
    public bool Allows(Visitor visitor, RequestPath path, Acts act, DateTimeOffset now)
    {
        var moment = At(now);
        if (!moment.GuardsAnything || (Settings.StaffPasses && visitor.IsStaff(now)))
        {
            return true;
        }

        var (gates, attempted) = moment.Resolve(path);
        return Admits(gates, visitor, act == Acts.Open ? attempted : act, now);
    }

    /// <summary>The items that the address of a request belongs to.</summary>
    public IReadOnlyList<Item> ItemsAt(RequestPath path) => [.. Graph.Addresses.Find(path).Select(p => Graph.Items[p])];

    /// <summary>The gates on an item by name with the ways by which they reached it, nearest first; none for an item that is not there.</summary>
    internal IReadOnlyList<PolicyMoment.Reached> ReasonsOn(ItemId item, DateTimeOffset now) =>
        Graph.PlaceOf(item) is >= 0 and var place ? At(now).ReasonsOnItem(place) : [];

    /// <summary>Whether any gate in force is there at all.</summary>
    public bool GuardsAnything(DateTimeOffset now) => At(now).GuardsAnything;

    private static Policy With(
        CatalogueGraph graph, IEnumerable<Gate> gates, IEnumerable<FactDefinition> definitions, SiteSettings settings, PolicyParts parts,
        Policy? kin = null)
    {
        var rules = parts.Of<GroupRules>();
        return new(
            graph,
            [.. gates.Select(g => g.PresenceBySite && g.Presence != settings.Presence ? g with { Presence = settings.Presence } : g)
            .Select(g => rules.Bind(g.Audience) is var bound && ReferenceEquals(bound, g.Audience) ? g : g with { Audience = bound })
            .OrderBy(g => g.Key, StringComparer.Ordinal)],
            ReferenceEquals(definitions, kin?.Definitions) ? kin!.Definitions
                : [.. definitions.OrderBy(s => s.Kind).ThenBy(s => s.Key, StringComparer.Ordinal)],
            settings, parts.Bound(rules), kin);
    }

    private static bool Admits(Gate[] requirements, Visitor visitor, Acts act, DateTimeOffset now)
    {
        foreach (var gate in requirements)
        {
            if ((gate.Guards & act) != 0 && !gate.Admits(visitor, now))
            {
                return false;
            }
        }

        return true;
    }

    private Decision Conclude(
        Visitor visitor, IReadOnlyList<int> places, IReadOnlyList<PolicyMoment.Reached> reached, Acts act, DateTimeOffset now, RequestPath? path = null)
    {
        var reasons = new List<Reason>(reached.Count);
        Reason? refused = null;
        foreach (var one in reached)
        {
            var guards = (one.Gate.Guards & act) != 0;
            var reason = new Reason(one.Gate, one.Way, one.Pattern, one.Gate.Admits(visitor, now), guards);
            reasons.Add(reason);
            if (refused is null && guards && !reason.Admitted)
            {
                refused = reason;
            }
        }

        var items = places.Select(p => Graph.Items[p].Id).ToList();
        if (refused is null)
        {
            return new Decision(true, false, items, reasons, null) { Path = path };
        }

        return Settings.StaffPasses && visitor.IsStaff(now)
            ? new Decision(true, true, items, reasons, null) { Path = path }
            : new Decision(false, false, items, reasons, new Refusal(refused.Gate, AnswerOf(refused.Gate, visitor, now))) { Path = path };
    }

    /// <summary>
    /// What the refused gets from a gate. <c>auto</c> asks for the next thing that is missing: the password where it is not given yet, then signing in;
    /// whoever gave both reads a message (docs/explanation/decisions.md, point 6).
    /// </summary>
    public Answer AnswerOf(Gate gate, Visitor visitor, DateTimeOffset now)
    {
        var missing = gate.Audience.AsksForPassword && !visitor.HasUnlocked(gate.Key, now) && Parts.Of<PasswordAsks>().Asks(gate.Key, visitor, now);
        return gate.Answer switch
        {
            Answer.Auto or Answer.Password when missing => Answer.Password,
            // A prompt that would take no password of theirs, and a sign-in page that would lead back to itself, help nobody.
            Answer.Auto or Answer.Password or Answer.SignIn => visitor.IsSignedIn ? Answer.Message : Answer.SignIn,
            Answer.Register when visitor.IsSignedIn => Answer.Message,
            var set => set,
        };
    }
}
