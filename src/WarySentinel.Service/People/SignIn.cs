using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>What came of a try with a password.</summary>
/// <param name="Member">Who it was, if it was right.</param>
/// <param name="Wait">How long to wait before the next try.</param>
/// <param name="Left">How many tries are left before a wait.</param>
/// <param name="Busy">Whether the queue of slow hashes was full.</param>
public sealed record Tried(Member? Member, TimeSpan Wait, int Left, bool Busy = false);

/// <summary>Signs members in: same answer and same work whether the account exists or not, slower with every wrong try.</summary>
public sealed class SignIn(Store store, Passwords passwords, TimeProvider time, ILogger<SignIn> log)
{
    private readonly Throttle byNetwork = new(time, 10, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
    private readonly Throttle byName = new(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));

    /// <summary>Tries a name and password from a network.</summary>
    public async Task<Tried> TryAsync(string name, string password, string network, CancellationToken stop)
    {
        name = MemberCommands.NormaliseEmail(name) ?? name.Trim().ToLowerInvariant();
        name = name.Length > 254 ? name[..254] : name;
        // By name and network together: a stranger elsewhere cannot lock somebody out.
        var both = $"{network} {name}";
        var wait = Longer(byNetwork.WaitOf(network), byName.WaitOf(both));
        if (wait > TimeSpan.Zero)
        {
            return new Tried(null, wait, 0);
        }

        byNetwork.Wrong(network);
        byName.Wrong(both);
        var member = await store.MemberByNameAsync(name, stop);
        bool proved;
        try
        {
            proved = await passwords.ProvesAsync(password.Length > MemberCommands.LongestPassword ? "" : password, member?.PasswordHash, stop);
        }
        catch (BusyException)
        {
            return new Tried(null, TimeSpan.Zero, 0, true);
        }

        if (!proved || member is not { Status: MemberStatus.Active })
        {
            log.LogInformation("Refused a sign-in from {Network}", network);
            wait = Longer(byNetwork.WaitOf(network), byName.WaitOf(both));
            return new Tried(null, wait, Math.Min(byNetwork.FreeLeft(network), byName.FreeLeft(both)));
        }

        byName.Right(both);
        byNetwork.Right(network);
        return new Tried(member, TimeSpan.Zero, 0);
    }

    private static TimeSpan Longer(TimeSpan a, TimeSpan b) => a > b ? a : b;
}
