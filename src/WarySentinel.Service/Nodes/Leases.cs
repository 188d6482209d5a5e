using WarySentinel.Storage;

namespace WarySentinel.Service.Nodes;

/// <summary>Takes what one machine does at a time. A lease is kept while its work goes on, and is free again soon after its machine is gone.</summary>
public sealed class Leases(Store store, Hearsay hearsay, TimeProvider time, ILogger<Leases> log)
{
    private static readonly TimeSpan Lasts = TimeSpan.FromSeconds(30);
    private readonly HashSet<string> held = new(StringComparer.Ordinal);
    private readonly Store store = store;
    private readonly Hearsay hearsay = hearsay;
    private readonly TimeProvider time = time;
    private readonly ILogger<Leases> log = log;

    /// <summary>The lease, or null where this machine or another has it already.</summary>
    /// <param name="name">What it is for.</param>
    /// <param name="stop">Cancels the work.</param>
    public async Task<Lease?> TakeAsync(string name, CancellationToken stop)
    {
        lock (held)
        {
            if (!held.Add(name))
            {
                return null;
            }
        }

        var taken = false;
        try
        {
            taken = await store.LeaseAsync(name, hearsay.Machine, time.GetUtcNow() + Lasts, stop);
        }
        finally
        {
            if (!taken)
            {
                Let(name);
            }
        }

        return taken ? new Lease(this, name, stop) : null;
    }

    /// <summary>Whether any machine does it at present.</summary>
    public Task<bool> IsTakenAsync(string name, CancellationToken stop) => store.IsLeasedAsync(name, stop);

    private void Let(string name)
    {
        lock (held)
        {
            held.Remove(name);
        }
    }

    /// <summary>Something that this machine alone does at present.</summary>
    public sealed class Lease : IAsyncDisposable
    {
        private readonly Leases leases;
        private readonly string name;
        private readonly CancellationTokenSource work;
        private readonly CancellationTokenSource done = new();
        private readonly Task keeping;

        internal Lease(Leases leases, string name, CancellationToken stop)
        {
            (this.leases, this.name) = (leases, name);
            work = CancellationTokenSource.CreateLinkedTokenSource(stop);
            keeping = KeepAsync();
        }

        /// <summary>Cancelled with the work, and where the lease is lost: another machine may have begun.</summary>
        public CancellationToken Stop => work.Token;

        /// <inheritdoc/>
        public async ValueTask DisposeAsync()
        {
            await done.CancelAsync();
            await keeping;
            try
            {
                await leases.store.EndLeaseAsync(name, leases.hearsay.Machine);
            }
            catch (Exception fault)
            {
                leases.log.LogDebug("The lease of {Name} ends by itself: {Reason}", name, fault.Message);
            }

            leases.Let(name);
            work.Dispose();
            done.Dispose();
        }

        private async Task KeepAsync()
        {
            var until = leases.time.GetUtcNow() + Lasts;
            while (!done.IsCancellationRequested)
            {
                try
                {
                    await Task.Delay(Lasts / 4, done.Token);
                    var next = leases.time.GetUtcNow() + Lasts;
                    if (!await leases.store.LeaseAsync(name, leases.hearsay.Machine, next, done.Token))
                    {
                        await work.CancelAsync();
                        return;
                    }

                    until = next;
                }
                catch (OperationCanceledException)
                {
                    return;
                }
                catch (Exception fault)
                {
                    leases.log.LogWarning("The lease of {Name} could not be kept: {Reason}", name, fault.Message);
                    if (leases.time.GetUtcNow() >= until)
                    {
                        await work.CancelAsync();
                        return;
                    }
                }
            }
        }
    }
}
