using WarySentinel.Core.Access;

namespace WarySentinel.Core.Entries;

/// <summary>Adds, changes and removes rules of entries.</summary>
public static class EntryCommands
{
    /// <summary>Most rules of a site.</summary>
    public const int Most = 200;

    /// <summary>Stores a rule; one of that key is replaced.</summary>
    public static Outcome<Edit<EntryRule>> Put(Policy policy, EntryDraft draft)
    {
        var read = draft.Read();
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var book = EntryBook.Of(policy);
        var old = book.All.FirstOrDefault(r => r.Key == read.Value.Key);
        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "entries-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return new Edit<EntryRule>(
            new Edit(old is null ? "entry.add" : "entry.set", fresh.Key, [new EntryPut(fresh)], old is null ? null : Describe(old), Describe(fresh))
            {
                Detail = Detail.Of(old is null ? null : EntryDraft.Of(old), EntryDraft.Of(fresh)),
            },
            fresh);
    }

    /// <summary>Removes a rule.</summary>
    public static Outcome<Edit<EntryRule>> Remove(Policy policy, string key) =>
        EntryBook.Of(policy).All.FirstOrDefault(r => r.Key == key) is not { } old
            ? Problem.Of(ProblemKind.NotFound, "entry-unknown", key)
            : new Edit<EntryRule>(new Edit("entry.remove", key, [new EntryDropped(key)], Describe(old)) { Detail = Detail.Of(EntryDraft.Of(old), null) }, old);

    private static string Describe(EntryRule rule) =>
        $"{string.Join(", ", rule.At)}: {rule.Card?.Entry.Text ?? rule.Data?.Entries.Text ?? "?"}";
}
