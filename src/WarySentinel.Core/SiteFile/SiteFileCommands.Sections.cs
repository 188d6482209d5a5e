using WarySentinel.Core.Access;

namespace WarySentinel.Core.SiteFile;

public sealed partial class SiteFileCommands
{
    /// <summary>What an entry of a file makes: the edit, and what it says in the form in which both sides are compared.</summary>
    private sealed record Made<TSaid>(Edit Edit, string Key, TSaid Said);

    /// <summary>How a section is compared whose entries have keys: one way for all of them.</summary>
    /// <param name="Name">Its name in the file.</param>
    /// <param name="Old">What is there by key; null for what is there and cannot be read.</param>
    /// <param name="Put">Makes an entry so.</param>
    /// <param name="Remove">Takes one away.</param>
    /// <param name="Bad">Notes a fault of an entry.</param>
    private sealed record Section<TEntry, TSaid>(
        string Name, IReadOnlyDictionary<string, TSaid?> Old, Func<Policy, TEntry, Outcome<Made<TSaid>>> Put, Func<Policy, string, Outcome<Edit>> Remove,
        Action<Written<TEntry>, Fault> Bad)
        where TSaid : class;

    /// <summary>
    /// The entries of a section, each against what stands before it in the file, and what is there and not in it. Where it changes what the next one is read
    /// against, <paramref name="after"/> says how.
    /// </summary>
    private (Policy Policy, IReadOnlySet<string> Seen) Each<TEntry, TSaid>(
        Section<TEntry, TSaid> section, IReadOnlyList<Written<TEntry>>? entries, Policy now, Func<Policy, Edit, Policy>? after = null)
        where TSaid : class
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var entry in entries ?? [])
        {
            var put = section.Put(now, entry.Draft);
            if (put.Problem is { } problem)
            {
                (problem.Faults is { Count: > 0 } located ? located : [new Fault("key", problem.Detail)]).ToList().ForEach(f => section.Bad(entry, f));
            }
            else if (!seen.Add(put.Value.Key))
            {
                section.Bad(entry, new Fault("key", Wording.Of("apply.twice", put.Value.Key)));
            }
            else if (section.Old.GetValueOrDefault(put.Value.Key) is { } was && Detail.Of(was, null) == Detail.Of(put.Value.Said, null))
            {
                same++;
            }
            else
            {
                Take(put.Value.Edit);
                now = after?.Invoke(now, put.Value.Edit) ?? now;
                Tell(section.Name, put.Value.Key, section.Old.GetValueOrDefault(put.Value.Key), put.Value.Said);
            }
        }

        return (now, seen);
    }

    /// <summary>What is there and not in the file: it stays, or goes where pruning was asked for.</summary>
    private Policy Gone<TEntry, TSaid>(
        Section<TEntry, TSaid> section, bool isWritten, IReadOnlySet<string> seen, Policy now, Func<Policy, Edit, Policy>? after = null)
        where TSaid : class
    {
        foreach (var (key, was) in section.Old.Where(o => !seen.Contains(o.Key)))
        {
            var removed = isWritten && prune ? section.Remove(now, key) : (Outcome<Edit>?)null;
            if (removed is not { } gone)
            {
                beside++;
            }
            else if (gone.Problem is { } problem)
            {
                faults.Add(new Fault(section.Name, problem.Detail));
            }
            else
            {
                Take(gone.Value);
                now = after?.Invoke(now, gone.Value) ?? now;
                Tell(section.Name, key, was, null);
            }
        }

        return now;
    }

    /// <summary>What there is one of on a site.</summary>
    private void One<TDraft, TSaid>(Written<TDraft> entry, string name, TSaid? was, Outcome<Made<TSaid>> put)
        where TSaid : class
    {
        if (put.Problem is { } problem)
        {
            (problem.Faults is { Count: > 0 } located ? located : [new Fault("", problem.Detail)]).ToList().ForEach(f => Bad(entry, f));
        }
        else if (was is not null && Detail.Of(was, null) == Detail.Of(put.Value.Said, null))
        {
            same++;
        }
        else
        {
            Take(put.Value.Edit);
            Tell(name, name, was, put.Value.Said);
        }
    }

    private void Take(Edit edit)
    {
        changes.AddRange(edit.Changes);
        notes.Add(edit with { Changes = [] });
    }

    private static Outcome<Edit> ToStore<T>(Outcome<Edit<T>> made) => made.Problem is { } problem ? problem : made.Value.ToStore;
}
