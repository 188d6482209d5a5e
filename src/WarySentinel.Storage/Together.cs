using WarySentinel.Core;
using WarySentinel.Core.People;

namespace WarySentinel.Storage;

/// <summary>
/// Group commit. An edit about people that finds no transaction under way is stored at once; those that arrive meanwhile share the next one, so that a
/// hundred writers wait for a few syncs of the disk and not for a hundred. Each is still stored whole with its audit entry or not at all: where a shared
/// transaction fails, each of its edits is stored again by itself and fails for itself.
/// </summary>
/// <param name="store">Stores edits in one transaction and gives what came of each, in their order.</param>
/// <param name="mostTransactions">So many may be under way at once.</param>
/// <param name="ownThread">Whether storing holds a thread for as long as it takes.</param>
internal sealed class Together(Func<IReadOnlyList<Together.WaitingEdit>, Task<IReadOnlyList<Stored>>> store, int mostTransactions, bool ownThread)
{
    /// <summary>What one transaction holds of others' edits at most: it bounds for how long it holds their rows.</summary>
    public const int MostEdits = 64;

    private readonly Lock guard = new();
    private readonly LinkedList<WaitingEdit> waiting = new();
    private int under;

    /// <summary>Stores an edit, perhaps together with others.</summary>
    public Task<Stored> StoreAsync(Edit edit, string by)
    {
        var asked = new WaitingEdit(edit, by);
        lock (guard)
        {
            waiting.AddLast(asked);
            if (under >= mostTransactions)
            {
                return asked.Answer.Task;
            }

            under++;
        }

        // SQLite works on the thread that asks: one of its own, so that what waits for a disk keeps no request waiting.
        _ = Task.Factory.StartNew(DrainAsync, CancellationToken.None, ownThread ? TaskCreationOptions.LongRunning : TaskCreationOptions.None,
            TaskScheduler.Default);
        return asked.Answer.Task;
    }

    private async Task DrainAsync()
    {
        while (Next() is { Count: > 0 } batch)
        {
            await StoreAsync(batch);
        }
    }

    /// <summary>The next edits, of each member one: two of the same member are of two versions of their row. Empty: this drain is over.</summary>
    private List<WaitingEdit> Next()
    {
        lock (guard)
        {
            var (batch, members) = (new List<WaitingEdit>(), new HashSet<Guid>());
            for (var at = waiting.First; at is not null && batch.Count < MostEdits;)
            {
                var next = at.Next;
                if (at.Value.Member is not { } member || members.Add(member))
                {
                    batch.Add(at.Value);
                    waiting.Remove(at);
                }

                at = next;
            }

            under -= batch.Count == 0 ? 1 : 0;
            // In one order everywhere: two transactions that want the same rows wait for one another in turn, never crosswise.
            batch.Sort(static (a, b) => Nullable.Compare(a.Member, b.Member) is not 0 and var by ? by : string.CompareOrdinal(a.Edit.Subject, b.Edit.Subject));
            return batch;
        }
    }

    private async Task StoreAsync(List<WaitingEdit> batch)
    {
        try
        {
            var stored = await store(batch);
            for (var i = 0; i < batch.Count; i++)
            {
                batch[i].Answer.SetResult(stored[i]);
            }
        }
        catch (Exception fault) when (batch.Count == 1 || fault is CommitUnsureException)
        {
            // Of what may have been stored nobody knows; it is told to all, and done again by nobody.
            batch.ForEach(b => b.Answer.SetException(fault));
        }
        catch (Exception)
        {
            foreach (var one in batch)
            {
                await StoreAsync([one]);
            }
        }
    }

    /// <summary>An edit that waits to be stored.</summary>
    internal sealed record WaitingEdit(Edit Edit, string By)
    {
        public TaskCompletionSource<Stored> Answer { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

        /// <summary>Whose row it writes under a version, if any.</summary>
        public Guid? Member { get; } = Edit.Changes.Select(c => c switch
        {
            MemberTouched touched => touched.Member,
            MemberSet set => set.Member.Id,
            _ => (Guid?)null,
        }).FirstOrDefault(id => id is not null);
    }
}
