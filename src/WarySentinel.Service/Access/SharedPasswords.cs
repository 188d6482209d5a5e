using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Access;

/// <summary>Adds, tries and withdraws shared passwords. A typed one is found by keyed digest and proved by slow hash.</summary>
public sealed class SharedPasswords(Store store, Passwords passwords, Secrets secrets, PolicyHolder policies, TimeProvider time, ILogger<SharedPasswords> log)
{
    private readonly Throttle byNetwork = new(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));

    /// <summary>Adds one to a gate.</summary>
    public async Task<Outcome<SharedPassword>> AddAsync(
        string gate, string? label, string password, DateTimeOffset? from, DateTimeOffset? until, string by, CancellationToken stop)
    {
        if (SharedPasswordCommands.Check(policies.Current, gate, label, password, from, until) is { } problem)
        {
            return problem;
        }

        var plain = SharedPassword.Normalise(password);
        var fresh = new SharedPassword(
            Guid.CreateVersion7(), gate, label!.Trim(), secrets.IndexOf(plain), await passwords.HashAsync(plain, stop), time.GetUtcNow(), from?.ToUniversalTime(), until?.ToUniversalTime());
        return await policies.ChangeAsync(
            async policy => SharedPasswordCommands.Check(policy, gate, label, password, from, until) is { } late
                ? late
                : SharedPasswordCommands.Add(fresh, await store.SharedPasswordsByDigestAsync(fresh.Digest, stop), time.GetUtcNow()),
            by, stop);
    }

    /// <summary>Withdraws one.</summary>
    public Task<Outcome<SharedPassword>> WithdrawAsync(Guid id, string by, CancellationToken stop) =>
        policies.ChangeAsync(async _ => SharedPasswordCommands.Withdraw(await store.SharedPasswordAsync(id, stop), time.GetUtcNow()), by, stop);

    /// <summary>Tries a typed password; what it opens, if anything.</summary>
    public async Task<(IReadOnlyList<StoredUnlock> Unlocks, Tried Try)> TryAsync(string typed, string network, CancellationToken stop)
    {
        var wait = byNetwork.WaitOf(network);
        if (wait > TimeSpan.Zero)
        {
            return ([], new Tried(null, wait, 0));
        }

        byNetwork.Wrong(network);
        var now = time.GetUtcNow();
        var plain = SharedPassword.Normalise(typed.Length > SharedPassword.Longest ? "" : typed);
        var found = (await store.SharedPasswordsByDigestAsync(secrets.IndexOf(plain), stop)).Where(p => p.IsInForce(now)).ToList();
        var unlocks = new List<StoredUnlock>();
        try
        {
            if (!await passwords.ProvesAsync(plain, found.FirstOrDefault()?.Hash, stop))
            {
                found.Clear();
            }
        }
        catch (BusyException)
        {
            return ([], new Tried(null, TimeSpan.Zero, 0, true));
        }

        foreach (var password in found)
        {
            if (policies.Current.FindGate(password.Gate) is { } gate)
            {
                var until = now + gate.UnlockFor;
                unlocks.Add(new StoredUnlock(gate.Key, password.Id, password.Until is { } end && end < until ? end : until));
            }
        }

        if (unlocks.Count == 0)
        {
            log.LogInformation("Refused a shared password from {Network}", network);
            return ([], new Tried(null, byNetwork.WaitOf(network), byNetwork.FreeLeft(network)));
        }

        byNetwork.Right(network);
        return (unlocks, new Tried(null, TimeSpan.Zero, 0));
    }
}
