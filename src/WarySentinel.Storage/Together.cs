using WarySentinel.Core;
using WarySentinel.Core.People;

namespace WarySentinel.Storage;

/// <summary>
/// Group commit. An edit about people that finds no transaction under way is stored at once; those that arrive meanwhile share the next one, so that a
/// hundred writers wait for a few syncs of the disk and not for a hundred. Each is still stored whole with its audit entry or not at all: where a shared
/// transaction fails, each of its edits is stored again by itself and fails for itself. One whose rows somebody else holds, such as a transaction of
/// thousands or another program, steps aside: who has nothing to do with it goes on.
/// </summary>
/// <param name="store">Stores edits in one transaction and gives what came of each, in their order; or waits for no row that is held for long.</param>
/// <param name="ownThread">Whether storing holds a thread for as long as it takes.</param>
internal sealed class Together(Func<IReadOnlyList<Together.WaitingEdit>, bool, Task<IReadOnlyList<Stored>>> store, bool ownThread) : IDisposable
{
    /// <summary>What one transaction holds of others' edits at most: it bounds for how long it holds their rows.</summary>
    private const int MostEdits = 64;

    /// <summary>Fewer than these are soon joined by others, where the last transaction has only just ended.</summary>
    private const int Few = 8;

    /// <summary>So many wait for rows that are held, each with a connection of its own.</summary>
    private const int MostAside = 6;

    /// <summary>
    /// How long a few wait for company where several callers are about: at 500 a second it takes a fifth of the work from both databases. Of one caller's
    /// edits, each right behind the one before, none waits.
    /// </summary>
    private static readonly TimeSpan Gathering = TimeSpan.FromMilliseconds(4);

    private readonly Lock guard = new();
    private readonly LinkedList<WaitingEdit> waiting = new();
    private readonly SemaphoreSlim aside = new(MostAside, MostAside);
    private readonly AutoResetEvent arrived = new(false);
    private bool draining;
    private bool listening;

    /// <inheritdoc/>
    public void Dispose()
    {
        aside.Dispose();
        arrived.Dispose();
    }

    /// <summary>Stores an edit, perhaps together with others.</summary>
    public Task<Stored> StoreAsync(Edit edit, string by)
    {
        var asked = new WaitingEdit(edit, by);
        lock (guard)
        {
            waiting.AddLast(asked);
            if (draining)
            {
                if (listening)
                {
                    arrived.Set();
                }

                return asked.Answer.Task;
            }

            draining = true;
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
            switch (Callers(batch.Count))
            {
                case Company.Few:
                    await GatherAsync();
                    break;
                case Company.None when OnOwnThread:
                    Listen();
                    break;
            }
        }
    }

    private bool OnOwnThread => ownThread && !Thread.CurrentThread.IsThreadPoolThread;

    /// <summary>Others are about where somebody arrived while an edit was stored, or was stored along with it: one caller waits for the answer first.</summary>
    private Company Callers(int stored)
    {
        lock (guard)
        {
            return waiting.Count >= Few ? Company.Many : waiting.Count > 0 || stored > 1 ? Company.Few : Company.None;
        }
    }

    private Task GatherAsync()
    {
        if (!OnOwnThread)
        {
            return Task.Delay(Gathering);
        }

        Thread.Sleep(Gathering);
        return Task.CompletedTask;
    }

    /// <summary>Keeps the thread for who comes next, and goes on as soon as they do: to begin one for each edit costs more than the edit's rows.</summary>
    private void Listen()
    {
        lock (guard)
        {
            if (waiting.Count > 0)
            {
                return;
            }

            listening = true;
        }

        arrived.WaitOne(Gathering);
        lock (guard)
        {
            listening = false;
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

            draining = batch.Count > 0;
            // In one order everywhere: two transactions that want the same rows wait for one another in turn, never crosswise.
            batch.Sort(static (a, b) => Nullable.Compare(a.Member, b.Member) is not 0 and var by ? by : string.CompareOrdinal(a.Edit.Subject, b.Edit.Subject));
            return batch;
        }
    }

    private async Task StoreAsync(List<WaitingEdit> batch)
    {
        try
        {
            Answer(batch, await store(batch, false));
        }
        catch (RowsHeldException)
        {
            _ = StepAsideAsync(batch);
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

    /// <summary>Each for itself and without the others; those that are held still wait until they no longer are.</summary>
    private async Task StepAsideAsync(List<WaitingEdit> batch)
    {
        if (batch.Count > 1)
        {
            foreach (var one in batch)
            {
                await StoreAsync([one]);
            }

            return;
        }

        await aside.WaitAsync();
        try
        {
            Answer(batch, await store(batch, true));
        }
        catch (Exception fault)
        {
            batch[0].Answer.SetException(fault);
        }
        finally
        {
            aside.Release();
        }
    }

    private static void Answer(List<WaitingEdit> batch, IReadOnlyList<Stored> stored)
    {
        for (var i = 0; i < batch.Count; i++)
        {
            batch[i].Answer.SetResult(stored[i]);
        }
    }

    private enum Company
    {
        None,
        Few,
        Many,
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
