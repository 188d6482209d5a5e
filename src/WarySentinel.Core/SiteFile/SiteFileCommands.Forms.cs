using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.SiteFile;

public sealed partial class SiteFileCommands
{
    /// <summary>Fields first, then the forms that use them, each against what stands before it in the file; what is pruned goes the other way round.</summary>
    private void Forms(IReadOnlyList<Written<FieldDraft>>? fields, IReadOnlyList<Written<FormDraft>>? forms, Policy between)
    {
        var book = FormBook.Of(policy);
        var (fieldKeys, formKeys) = (book.Fields.Select(f => f.Key).ToList(), book.Forms.Select(f => f.Key).Concat(book.BrokenForms).ToList());
        var reached = Each("fields", fields, fieldKeys, between, (now, draft) => Made(FormCommands.WithoutForms(now, draft)), d => d.Key,
            k => book.FindField(k)?.Draft);
        reached = Each("forms", forms, formKeys, reached, (now, draft) => Made(FormCommands.PutForm(now, draft)), d => d.Key, k => book.DraftOf(k)?.Draft);
        reached = Gone("forms", forms?.Select(f => f.Draft.Key), formKeys, reached, (now, key) => Made(FormCommands.RemoveForm(now, key)),
            k => book.DraftOf(k)?.Draft);
        reached = Gone("fields", fields?.Select(f => f.Draft.Key), fieldKeys, reached, (now, key) => Made(FormCommands.RemoveField(now, key)),
            k => book.FindField(k)?.Draft);
        if (faults.Count == 0 && FormBook.Of(reached).BrokenForms.Except(book.BrokenForms).FirstOrDefault() is { } lost)
        {
            faults.Add(new Fault("forms", Wording.Of("form-broken", lost, FormBook.Of(reached).Broken.First(b => b.Key == lost).Problem.Detail)));
        }
    }

    private static Outcome<Edit> Made<T>(Outcome<Edit<T>> made) => made.Problem is { } problem ? problem : made.Value.ToStore;

    private Policy Each<T>(
        string section, IReadOnlyList<Written<T>>? entries, List<string> there, Policy now, Func<Policy, T, Outcome<Edit>> put, Func<T, string?> keyOf,
        Func<string, T?> old)
        where T : class
    {
        beside += entries is null ? there.Count : 0;
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var entry in entries ?? [])
        {
            var made = put(now, entry.Draft);
            if (made.Problem is { } problem)
            {
                (problem.Faults is { Count: > 0 } located ? located : [new Fault("key", problem.Detail)]).ToList().ForEach(f => Bad(entry, f));
            }
            else if (!seen.Add(keyOf(entry.Draft)!))
            {
                Bad(entry, new Fault("key", Wording.Of("apply.twice", keyOf(entry.Draft))));
            }
            else if (old(keyOf(entry.Draft)!) is { } was && Detail.Of(was, null) == Detail.Of(entry.Draft, null))
            {
                same++;
            }
            else
            {
                now = After(now, made.Value);
                Tell(section, keyOf(entry.Draft)!, old(keyOf(entry.Draft)!), entry.Draft);
            }
        }

        return now;
    }

    private Policy Gone<T>(
        string section, IEnumerable<string?>? written, List<string> there, Policy now, Func<Policy, string, Outcome<Edit>> remove, Func<string, T?> old)
        where T : class
    {
        foreach (var key in written is null ? [] : there.Except(written.OfType<string>()))
        {
            var removed = prune ? remove(now, key) : default;
            if (!prune)
            {
                beside++;
            }
            else if (removed.Problem is { } problem)
            {
                faults.Add(new Fault(section, problem.Detail));
            }
            else
            {
                now = After(now, removed.Value);
                Tell(section, key, old(key), null);
            }
        }

        return now;
    }

    private Policy After(Policy now, Edit edit)
    {
        changes.AddRange(edit.Changes);
        notes.Add(edit with { Changes = [] });
        return now.TryAfter(edit) is { IsGood: true } after ? after.Value : now;
    }
}
