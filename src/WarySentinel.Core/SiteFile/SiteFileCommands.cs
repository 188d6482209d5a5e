using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Core.SiteFile;

/// <summary>Compares a site file with the policy and makes one edit of the difference: all of it, or nothing.</summary>
public sealed partial class SiteFileCommands
{
    private const int MostListed = 500;
    private readonly Policy policy;
    private readonly bool prune;
    private readonly GateSurroundings around;
    private readonly Func<FactKind, string, int> holders;
    private readonly TemplateCheck templates;
    private readonly List<Fault> faults = [];
    private readonly List<Change> changes = [];
    private readonly List<SiteChange> listed = [];
    private readonly List<Edit> notes = [];
    private readonly List<Wording> kept = [];
    private readonly List<(Written<FactDraft> Entry, FactDraft? Before, FactDraft After)> groups = [];
    private int added;
    private int changed;
    private int removed;
    private int same;
    private int beside;

    private SiteFileCommands(Policy policy, bool prune, GateSurroundings around, Func<FactKind, string, int> holders, TemplateCheck templates) =>
        (this.policy, this.prune, this.around, this.holders, this.templates) = (policy, prune, around, holders, templates);

    /// <summary>The difference, and the edit that makes it; no edit where nothing changes or something is wrong.</summary>
    /// <param name="policy">The policy as it is.</param>
    /// <param name="file">The file.</param>
    /// <param name="already">Faults found while reading it.</param>
    /// <param name="prune">Whether what a section of the file does not name is removed.</param>
    /// <param name="around">What gate commands need to know.</param>
    /// <param name="isMember">Whether an audience may name that e-mail address.</param>
    /// <param name="holders">How many members hold a role, group or plan.</param>
    /// <param name="templates">Tries the words of letters.</param>
    public static (SiteDifference Difference, Edit? Edit) Apply(
        Policy policy, SiteDocument file, IReadOnlyList<Fault> already, bool prune, GateSurroundings around, Func<string, bool> isMember,
        Func<FactKind, string, int> holders, TemplateCheck templates)
    {
        var run = new SiteFileCommands(policy, prune, around, holders, templates);
        run.faults.AddRange(already);
        return run.Run(file, isMember);
    }

    private (SiteDifference, Edit?) Run(SiteDocument file, Func<string, bool> isMember)
    {
        Standings(FactKind.Role, "roles", file.Roles);
        Standings(FactKind.Group, "groups", file.Groups);
        Standings(FactKind.Plan, "plans", file.Plans);
        Standings(FactKind.Pass, "passKinds", file.PassKinds);
        Items(file.Items);
        Letters(file.Letters);
        if (faults.Count == 0)
        {
            AfterItems(file, isMember);
        }

        var summary = Words.Of("apply.summary", added, changed, removed);
        var edit = new Edit("apply", "site", changes, null, summary) { Notes = notes };
        if (faults.Count == 0 && changes.Count > 0)
        {
            edit = Together(edit, file);
        }

        var difference = new SiteDifference(
            added, changed, removed, same, beside, [.. listed.Take(MostListed)], Math.Max(0, added + changed + removed - Math.Min(MostListed, listed.Count)),
            kept,
            [.. faults.OrderBy(f => f.Line ?? 0).ThenBy(f => f.Column ?? 0).Take(ItemCommands.MostFaults)]);
        return (difference, faults.Count > 0 || changes.Count == 0 ? null : edit);
    }

    /// <summary>Gates are read against the catalogue and the keys as they will be.</summary>
    private void AfterItems(SiteDocument file, Func<string, bool> isMember)
    {
        var between = policy.TryAfter(new Edit("apply", "", changes));
        if (between.Problem is { } problem)
        {
            faults.Add(new Fault("items", problem.Detail));
            return;
        }

        var known = new KnownKeys(between.Value, isMember);
        Rules(known);
        Gates("gates", file.Gates, false, between.Value, known);
        Gates("exemptions", file.Exemptions, true, between.Value, known);
        // Where people land is judged by the gates as they will be.
        var gated = file.Redirects is null || faults.Count > 0 ? between : policy.TryAfter(new Edit("apply", "", changes));
        Redirects(file.Redirects, gated.IsGood ? gated.Value : between.Value, known);
        Entries(file.Entries, between.Value);
        Areas(file.Areas, between.Value);
        Shows(file.Shows, between.Value);
        Prices(file, between.Value, known);
        Fulfilment(file.Fulfilment, gated.IsGood ? gated.Value : between.Value);
        VisitorPages(file.VisitorPages);
        Texts(file.Texts);
        Forms(file, between.Value, known);
        Left(between.Value, file, known);
    }

    /// <summary>Whether it all fits together, and lets an owner in.</summary>
    private Edit Together(Edit edit, SiteDocument file)
    {
        var after = policy.TryAfter(edit);
        if (after.Problem is { } problem)
        {
            faults.Add(new Fault("items", problem.Detail));
        }
        else if (GateCommands.LocksOutBy(policy, after.Value, around) is { } gate)
        {
            var fault = new Fault("key", Wording.Of("problem.locks-out-owner", gate.Title, gate.Key));
            if (file.Gates?.FirstOrDefault(g => KeyOf(g.Draft) == gate.Key) is { } entry)
            {
                Bad(entry, fault);
            }
            else
            {
                faults.Add(fault with { Field = "gates" });
            }
        }

        return after.IsGood ? new CompiledEdit(edit, after.Value) : edit;
    }

    private static string KeyOf(GateDraft draft) => string.IsNullOrWhiteSpace(draft.Key) ? Slug.Of(draft.Title?.Trim() ?? "") : draft.Key;

    private void Tell<T>(string section, string key, T? before, T? after)
        where T : class
    {
        var what = before is null ? "added" : after is null ? "removed" : "changed";
        added += before is null ? 1 : 0;
        removed += after is null ? 1 : 0;
        changed += before is not null && after is not null ? 1 : 0;
        if (listed.Count < MostListed)
        {
            listed.Add(new SiteChange(section, key, what, before is not null && after is not null ? Detail.ChangesOf(Detail.Of(before, after)) : []));
        }
    }

    private void Bad<T>(Written<T> entry, Fault fault)
    {
        var (line, column) = entry.Place(fault.Field);
        faults.Add(fault with { Line = line, Column = fault.Column is { } inner ? column + inner - 1 : column });
    }

    private void Items(IReadOnlyList<ItemDraft>? rows)
    {
        if (rows is null)
        {
            beside += policy.Graph.Items.Count - 1;
            return;
        }

        var (result, edit) = ItemCommands.Import(policy.Graph, rows, [], false, around.Reserved, prune);
        faults.AddRange(result.Faults);
        same += result.Same;
        foreach (var item in edit?.Changes.OfType<ItemsPut>().SelectMany(p => p.Items) ?? [])
        {
            var old = policy.Graph.Find(item.Id);
            var isNew = old is null || old.Version == 0;
            Tell("items", item.Id.ToString(), isNew ? null : ItemDraft.Of(old!), ItemDraft.Of(item));
        }

        changes.AddRange(edit?.Changes ?? []);
        var named = rows.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        var gone = policy.Graph.Items.Where(i => i.Id != ItemId.Site && !named.Contains(i.Id.ToString())).ToList();
        if (!prune)
        {
            beside += gone.Count;
            return;
        }

        // What belongs to something that no site file holds, such as a page that is written here, goes with that.
        kept.AddRange(gone.Where(i => policy.Holding(i.Id) is not null).Select(i => Wording.Of("problem.item-held", i.Id, policy.Holding(i.Id))));
        gone.RemoveAll(i => policy.Holding(i.Id) is not null);
        foreach (var item in gone)
        {
            Tell("items", item.Id.ToString(), ItemDraft.Of(item), null);
        }

        if (gone.Count > 0)
        {
            changes.Add(new ItemsDropped([.. gone.Select(i => i.Id)]));
        }
    }

    private void Gates(string section, IReadOnlyList<Written<GateDraft>>? entries, bool exemptions, Policy between, IKnownKeys known)
    {
        var old = policy.Gates.Where(g => g.IsExemption == exemptions && !g.StandsIn).ToDictionary(g => g.Key, StringComparer.Ordinal);
        if (entries is null)
        {
            beside += old.Count;
            return;
        }

        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var entry in entries)
        {
            var draft = entry.Draft with { Kind = exemptions ? "exemption" : "requirement", Title = entry.Draft.Title ?? entry.Draft.Key };
            var read = draft.Read(between, known, around.Reserved);
            if (read.Problem is { } problem)
            {
                problem.Faults.ToList().ForEach(f => Bad(entry, f));
                continue;
            }

            var gate = read.Value;
            if (!seen.Add(gate.Key))
            {
                Bad(entry, new Fault("key", Wording.Of("apply.twice", gate.Key)));
                continue;
            }

            Put(section, gate, between);
        }

        var put = changes.OfType<GatePut>().Select(p => p.Gate.Key).ToHashSet(StringComparer.Ordinal);
        foreach (var gone in old.Values.Where(g => !seen.Contains(g.Key) && !put.Contains(g.Key)))
        {
            if (!prune)
            {
                beside++;
                continue;
            }

            changes.Add(new GateDropped(gone.Key));
            Tell(section, gone.Key, GateDraft.Of(gone), null);
            notes.Add(new Edit("gate.remove", gone.Key, [], GateSentence.Of(gone, policy).ToString()) { Detail = Detail.Of(GateDraft.Of(gone), null) });
        }
    }

    private void Put(string section, Gate gate, Policy between)
    {
        // A key may have belonged to the other sort before.
        var there = policy.FindGate(gate.Key);
        var (was, draft) = (there is null ? null : GateDraft.Of(there), GateDraft.Of(gate));
        if (there is { Unreadable: null } && was!.SaysTheSameAs(draft))
        {
            same++;
            return;
        }

        changes.Add(new GatePut(gate with { Version = (there?.Version ?? 0) + 1 }));
        Tell(section, gate.Key, was, draft);
        var before = there is null ? null : GateSentence.Of(there, policy).ToString();
        notes.Add(new Edit(there is null ? "gate.add" : "gate.set", gate.Key, [], before, GateSentence.Of(gate, between).ToString())
        { Detail = Detail.Of(was, draft) });
    }

    private void Redirects(IReadOnlyList<Written<RedirectDraft>>? entries, Policy between, IKnownKeys known)
    {
        var section = new Section<RedirectDraft, RedirectDraft>(
            "redirects", RedirectBook.Of(policy).All.ToDictionary(r => r.Key, RedirectDraft? (r) => RedirectDraft.Of(r)),
            (now, draft) => RedirectCommands.Put(now, draft, new RedirectSurroundings(known, around.Reserved, around.Now)).Match<Outcome<Made<RedirectDraft>>>(
                put => new Made<RedirectDraft>(put.ToStore, put.Value.Key, RedirectDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(RedirectCommands.Remove(now, key)), Bad);
        Gone(section, entries is not null, Each(section, entries, between).Seen, between);
    }

    private void Entries(IReadOnlyList<Written<EntryDraft>>? entries, Policy between)
    {
        var section = new Section<EntryDraft, EntryDraft>(
            "entries", EntryBook.Of(policy).All.ToDictionary(r => r.Key, EntryDraft? (r) => r.IsUnreadable ? null : EntryDraft.Of(r)),
            (now, draft) => EntryCommands.Put(now, draft).Match<Outcome<Made<EntryDraft>>>(
                put => new Made<EntryDraft>(put.ToStore, put.Value.Key, EntryDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(EntryCommands.Remove(now, key)), Bad);
        Gone(section, entries is not null, Each(section, entries, between).Seen, between);
    }

    /// <summary>Gates and redirects that stay must still name things that are there.</summary>
    private void Left(Policy between, SiteDocument file, KnownKeys known)
    {
        var handled = changes.OfType<GatePut>().Select(p => p.Gate.Key).Concat(changes.OfType<GateDropped>().Select(d => d.Key))
            .Concat((file.Gates ?? []).Concat(file.Exemptions ?? []).Select(g => g.Draft.Key ?? "")).ToHashSet(StringComparer.Ordinal);
        foreach (var gate in policy.Gates.Where(g => !g.StandsIn && !handled.Contains(g.Key)))
        {
            var missing = gate.Covers.Where(c => c.Item is { } id && between.Graph.PlaceOf(id) < 0).Select(c => c.ToString())
                .Concat(gate.Audience.Atoms().OfType<Audience.Fact>()
                .Where(f => f.Kind is not FactKind.Member && !known.Knows(f.Kind, f.Key)).Select(f => f.ToString())).ToList();
            if (missing.Count > 0)
            {
                faults.Add(new Fault("gates", Wording.Of("apply.still-named", missing[0], gate.Key)));
            }
        }

        var rules = changes.OfType<GroupRuleSet>().ToDictionary(s => s.Group, s => s.Rule, StringComparer.Ordinal);
        foreach (var (group, rule) in policy.Rules.After(rules))
        {
            if (rule.Atoms().OfType<Audience.Fact>().FirstOrDefault(f => f.Kind != FactKind.Member && !known.Knows(f.Kind, f.Key)) is { } lost)
            {
                faults.Add(new Fault("groups", Wording.Of("apply.still-named", lost, "group:" + group)));
            }
        }
    }
}
