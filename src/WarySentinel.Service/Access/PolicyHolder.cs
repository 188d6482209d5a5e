using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Access;

/// <summary>Holds the current policy and is the one way to change it: command, store, swap. Requests never wait for a change.</summary>
public sealed class PolicyHolder(Store store, SessionCache sessions, ServiceOptions options, TimeProvider time, ILogger<PolicyHolder> log)
{
    private readonly SemaphoreSlim one = new(1, 1);
    private volatile Policy current = Policy.Empty;
    private long revision = -1;
    private long sessionsEnded;
    private volatile IReadOnlyList<StoredFault> faults = [];

    /// <summary>The policy that decides now.</summary>
    public Policy Current => current;

    /// <summary>The revision of the store that it was built from.</summary>
    public long Revision => Interlocked.Read(ref revision);

    /// <summary>What is stored and cannot be read; what it covered is closed until it is mended.</summary>
    public IReadOnlyList<StoredFault> Faults => faults;

    /// <summary>Reads the policy from the store. Whatever is stored there, there is a policy after it.</summary>
    public async Task LoadAsync(CancellationToken stop)
    {
        var stored = await store.LoadPolicyAsync(stop);
        var (fresh, wrong) = Salvage.Build(stored.Items, stored.Gates, stored.Standings, stored.Settings, stored.Extras, stored.Faults);
        foreach (var fault in wrong.Except(faults, FaultsAlike.One))
        {
            log.LogError("CLOSED until it is mended: the {Kind} {Key} cannot be read. {Reason} {Mend}", fault.Kind, fault.Key, fault.Reason, fault.Mend);
        }

        faults = wrong;
        fresh.Prepare(time.GetUtcNow());
        current = fresh;
        Interlocked.Exchange(ref revision, stored.Revision);
        sessions.Clear();
    }

    /// <summary>Looks whether another machine changed the store, and reads it again if so.</summary>
    public async Task FollowAsync(CancellationToken stop)
    {
        var (stored, ended) = await store.RevisionsAsync(stop);
        if (Interlocked.Exchange(ref sessionsEnded, ended) != ended)
        {
            sessions.Clear();
        }

        if (stored == Revision)
        {
            return;
        }

        await one.WaitAsync(stop);
        try
        {
            await LoadAsync(stop);
        }
        finally
        {
            one.Release();
        }
    }

    /// <summary>Runs a command against the current policy and stores what it gives.</summary>
    /// <param name="command">Gives an edit, or why not. May run twice when another machine was faster.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="progress">Told the number of items stored so far.</param>
    public async Task<Outcome<T>> ChangeAsync<T>(
        Func<Policy, Task<Outcome<Edit<T>>>> command, string by, CancellationToken stop, IProgress<int>? progress = null)
    {
        await one.WaitAsync(stop);
        try
        {
            for (var tries = 0; ; tries++)
            {
                var outcome = await command(current);
                if (outcome.Problem is { } problem)
                {
                    return problem;
                }

                var edit = outcome.Value.Store;
                if (edit.Changes.Count == 0)
                {
                    return outcome.Value.Value;
                }

                var after = current.TryAfter(edit);
                if (after.Problem is { } misfit)
                {
                    return misfit;
                }

                try
                {
                    var stored = await store.ApplyAsync(edit, by, Revision, progress, stop);
                    if (faults.Count > 0)
                    {
                        // It may have mended something.
                        await LoadAsync(CancellationToken.None);
                    }
                    else
                    {
                        after.Value.Prepare(time.GetUtcNow());
                        current = after.Value;
                        Interlocked.Exchange(ref revision, stored);
                        sessions.Clear();
                    }

                    log.LogInformation("Changed {Action} {Subject} by {By}", edit.Action, edit.Subject, by);
                    return outcome.Value.Value;
                }
                catch (StoreMovedException) when (tries < 3)
                {
                    await LoadAsync(stop);
                }
            }
        }
        finally
        {
            one.Release();
        }
    }

    /// <summary>Drops what is stored of something that cannot be read, and reads the policy again; false where there is no such thing.</summary>
    public async Task<bool> DropUnreadableAsync(StoredFault fault, string by, CancellationToken stop)
    {
        await one.WaitAsync(stop);
        try
        {
            var dropped = await store.DropUnreadableAsync(fault.Kind, fault.Key, by, stop);
            await LoadAsync(CancellationToken.None);
            return dropped;
        }
        finally
        {
            one.Release();
        }
    }

    /// <summary>Runs a command that needs nothing but the policy.</summary>
    public Task<Outcome<T>> ChangeAsync<T>(Func<Policy, Outcome<Edit<T>>> command, string by, CancellationToken stop) =>
        ChangeAsync(policy => Task.FromResult(command(policy)), by, stop);

    /// <summary>The members that audiences name and that are there.</summary>
    public async Task<HashSet<string>> NamedMembersAsync(IEnumerable<string> audiences, CancellationToken stop)
    {
        var named = new HashSet<string>(StringComparer.Ordinal);
        foreach (var text in audiences.Where(a => a.Contains("member:", StringComparison.Ordinal)).Distinct())
        {
            var read = AudienceParser.Parse(text);
            foreach (var atom in read.IsGood ? read.Value.Atoms() : [])
            {
                if (atom is Audience.Fact { Kind: FactKind.Member } member && await store.IsMemberAsync(member.Key, stop))
                {
                    named.Add(member.Key);
                }
            }
        }

        return named;
    }

    /// <summary>What gate commands need to know beside the policy.</summary>
    public async Task<GateSurroundings> SurroundingsAsync(Policy policy, IEnumerable<string> audiences, CancellationToken stop)
    {
        var owners = await store.ActiveWithRoleAsync("owner", stop);
        var named = await NamedMembersAsync(audiences, stop);
        return new GateSurroundings(new KnownKeys(policy, named.Contains), options.Reserved, [.. owners.Select(o => o.AsVisitor())], time.GetUtcNow());
    }
}

/// <summary>Faults of the same thing for the same reason.</summary>
file sealed class FaultsAlike : IEqualityComparer<StoredFault>
{
    public static readonly FaultsAlike One = new();

    public bool Equals(StoredFault? x, StoredFault? y) => (x?.Kind, x?.Key, x?.Reason) == (y?.Kind, y?.Key, y?.Reason);

    public int GetHashCode(StoredFault fault) => HashCode.Combine(fault.Kind, fault.Key);
}

/// <summary>Keeps the policy up to date with other machines, and drops sessions that are over.</summary>
public sealed class Follower(PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, ILogger<Follower> log) : BackgroundService
{
    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (options.FollowMilliseconds <= 0)
        {
            return;
        }

        var swept = time.GetUtcNow();
        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(options.FollowMilliseconds), time);
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await timer.WaitForNextTickAsync(stoppingToken);
                await policies.FollowAsync(stoppingToken);
                // A gate that starts or ends by its date is worked out a moment before it does.
                policies.Current.Prepare(time.GetUtcNow().AddMilliseconds(2 * options.FollowMilliseconds));
                if (time.GetUtcNow() - swept > TimeSpan.FromHours(1))
                {
                    swept = time.GetUtcNow();
                    await store.SweepSessionsAsync(stoppingToken);
                }
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning("The store could not be followed: {Reason}", fault.Message);
            }
        }
    }
}
