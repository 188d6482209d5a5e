using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Nodes;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.Access;

/// <summary>
/// Holds the current policy and is the one way to change it: command, store, swap. Requests never wait for a change; a change waits for another
/// only while that is stored.
/// </summary>
public sealed class PolicyHolder : INewsReader
{
    /// <summary>So often a command is run beside others; then it has the lane to itself.</summary>
    private const int MostBesides = 3;

    private const int MostReloads = 3;
    private readonly Store store;
    private readonly Hearsay hearsay;
    private readonly TimeProvider time;
    private readonly ILogger<PolicyHolder> log;
    private readonly SemaphoreSlim one = new(1, 1);
    private volatile bool mayHaveMoved;
    private volatile Held held = new(Policy.Empty, -1);
    private volatile IReadOnlyList<StoredFault> faults = [];

    /// <summary>Holds none yet, and listens for changes.</summary>
    public PolicyHolder(Store store, Hearsay hearsay, TimeProvider time, ILogger<PolicyHolder> log)
    {
        (this.store, this.hearsay, this.time, this.log) = (store, hearsay, time, log);
        hearsay.Add(this);
    }

    /// <summary>A policy and the revision of the store that it was built from.</summary>
    private sealed record Held(Policy Policy, long Revision);

    /// <summary>The policy that decides now.</summary>
    public Policy Current => held.Policy;

    /// <summary>The revision of the store that it was built from.</summary>
    public long Revision => held.Revision;

    /// <summary>What is stored and cannot be read; what it covered is closed until it is mended.</summary>
    public IReadOnlyList<StoredFault> Faults => faults;

    /// <summary>Reads the policy from the store. Whatever is stored there, there is a policy after it.</summary>
    public async Task LoadAsync(CancellationToken stop) => Take(await store.LoadPolicyAsync(stop));

    /// <summary>Begins with a policy that was read a moment ago, if nothing has changed since; else reads it.</summary>
    public async Task BeginAsync(StoredPolicy? read, CancellationToken stop)
    {
        if (read is not null && await store.RevisionAsync(stop) == read.Revision)
        {
            Take(read);
            return;
        }

        await LoadAsync(stop);
    }

    private void Take(StoredPolicy stored)
    {
        var (fresh, wrong) = Salvage.Build(stored.Items, stored.Gates, stored.Definitions, stored.Settings, stored.Parts, stored.Faults);
        foreach (var fault in wrong.Except(faults, FaultsAlike.One))
        {
            log.LogError("CLOSED until it is mended: the {Kind} {Key} cannot be read. {Reason} {Mend}", fault.Kind, fault.Key, fault.Reason, fault.Mend);
        }

        faults = wrong;
        fresh.Pin(time.GetUtcNow());
        held = new Held(fresh, stored.Revision);
    }

    /// <inheritdoc/>
    public void Hear(News news)
    {
        // Only ever set here: several threads tell news at once.
        if (news.Kind == Told.Policy)
        {
            mayHaveMoved = true;
        }
    }

    /// <inheritdoc/>
    public void Lost() => mayHaveMoved = true;

    /// <inheritdoc/>
    public async Task CatchUpAsync(bool anyway, CancellationToken stop)
    {
        if (anyway || mayHaveMoved)
        {
            mayHaveMoved = false;
            try
            {
                await FollowAsync(stop);
            }
            catch
            {
                mayHaveMoved = true;
                throw;
            }
        }
    }

    /// <summary>Looks whether another machine changed the policy, and reads it again if so.</summary>
    public async Task FollowAsync(CancellationToken stop)
    {
        if (await store.RevisionAsync(stop) == Revision)
        {
            return;
        }

        await one.WaitAsync(stop);
        try
        {
            if (await store.RevisionAsync(stop) != Revision)
            {
                await LoadAsync(stop);
            }
        }
        finally
        {
            one.Release();
        }
    }

    /// <summary>Runs a command against the current policy and stores what it gives.</summary>
    /// <param name="command">Gives an edit, or why not. Runs again where somebody else, here or elsewhere, changed the policy meanwhile.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="progress">Told the number of items stored so far.</param>
    public async Task<Outcome<T>> ChangeAsync<T>(
        Func<Policy, Task<Outcome<Edit<T>>>> command, string by, CancellationToken stop, IProgress<int>? progress = null)
    {
        try
        {
            return await BesidesAsync(command, by, stop, progress);
        }
        catch (StoreRefusedException refused)
        {
            // What people have done meanwhile stands against it.
            return refused.Problem;
        }
    }

    private async Task<Outcome<T>> BesidesAsync<T>(
        Func<Policy, Task<Outcome<Edit<T>>>> command, string by, CancellationToken stop, IProgress<int>? progress)
    {
        for (var tries = 0; tries < MostBesides; tries++)
        {
            var from = held;
            var (prepared, result) = await PrepareAsync(command, from);
            if (prepared is null)
            {
                return result!.Value;
            }

            await one.WaitAsync(stop);
            try
            {
                if (from == held && await StoreAsync(prepared, from, by, progress, stop))
                {
                    return result!.Value;
                }
            }
            finally
            {
                one.Release();
            }
        }

        return await AloneAsync(command, by, stop, progress);
    }

    private async Task<Outcome<T>> AloneAsync<T>(
        Func<Policy, Task<Outcome<Edit<T>>>> command, string by, CancellationToken stop, IProgress<int>? progress)
    {
        await one.WaitAsync(stop);
        try
        {
            for (var tries = 0; tries < MostReloads; tries++)
            {
                var from = held;
                var (prepared, result) = await PrepareAsync(command, from);
                if (prepared is null || await StoreAsync(prepared, from, by, progress, stop))
                {
                    return result!.Value;
                }
            }

            return Problem.Of(ProblemKind.Conflict, "moved");
        }
        finally
        {
            one.Release();
        }
    }

    private sealed record Prepared(Edit Edit, Policy After);

    /// <summary>Runs the command and compiles what it gives, while others go on; no edit where there is nothing to store.</summary>
    private async Task<(Prepared? Edit, Outcome<T>? Result)> PrepareAsync<T>(Func<Policy, Task<Outcome<Edit<T>>>> command, Held from)
    {
        var outcome = await command(from.Policy);
        if (outcome.Problem is { } problem)
        {
            return (null, problem);
        }

        var edit = outcome.Value.ToStore;
        if (edit.Changes.Count == 0)
        {
            return (null, outcome.Value.Value);
        }

        var after = from.Policy.TryAfter(edit);
        if (after.Problem is { } misfit)
        {
            return (null, misfit);
        }

        after.Value.Pin(time.GetUtcNow());
        return (new Prepared(edit, after.Value), outcome.Value.Value);
    }

    /// <summary>Stores an edit and swaps the policy; false where another machine was faster, whose policy is read then.</summary>
    private async Task<bool> StoreAsync(Prepared prepared, Held from, string by, IProgress<int>? progress, CancellationToken stop)
    {
        Stored stored;
        try
        {
            stored = await store.ApplyAsync(prepared.Edit, by, from.Revision, progress, stop);
        }
        catch (StoreMovedException)
        {
            await LoadAsync(stop);
            return false;
        }

        if (faults.Count > 0)
        {
            // It may have mended something.
            await LoadAsync(CancellationToken.None);
        }
        else
        {
            held = new Held(prepared.After, stored.Revision ?? from.Revision);
        }

        hearsay.Tell(stored.News);
        log.LogInformation("Changed {Action} {Subject} by {By}", prepared.Edit.Action, prepared.Edit.Subject, by);
        return true;
    }

    /// <summary>Drops what is stored of something that cannot be read, and reads the policy again; false where there is no such thing.</summary>
    public async Task<bool> DropUnreadableAsync(StoredFault fault, string by, CancellationToken stop)
    {
        await one.WaitAsync(stop);
        try
        {
            var (dropped, news) = await store.DropUnreadableAsync(fault.Kind, fault.Key, by, stop);
            await LoadAsync(CancellationToken.None);
            hearsay.Tell(news);
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

    /// <summary>The keys that expressions may name, members included that these expressions name.</summary>
    public async Task<KnownKeys> KnownKeysAsync(Policy policy, IEnumerable<string> audiences, CancellationToken stop) =>
        new(policy, (await NamedMembersAsync(audiences, stop)).Contains);
}

/// <summary>Faults of the same thing for the same reason.</summary>
file sealed class FaultsAlike : IEqualityComparer<StoredFault>
{
    public static readonly FaultsAlike One = new();

    public bool Equals(StoredFault? x, StoredFault? y) => (x?.Kind, x?.Key, x?.Reason) == (y?.Kind, y?.Key, y?.Reason);

    public int GetHashCode(StoredFault fault) => HashCode.Combine(fault.Kind, fault.Key);
}
