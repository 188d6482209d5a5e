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

/// <summary>From where a try comes.</summary>
/// <param name="Network">The network.</param>
/// <param name="Browser">The browser, and the members who have signed in with it before.</param>
public sealed record TryFrom(string Network, KnownBrowser Browser);

/// <summary>
/// Signs members in: same answer and same work whether the account exists or not, slower with every wrong try.
/// A member is one name, however they are called; many networks against one member meet a brake of its own, which spares the browsers that the
/// member has used before, so that nobody can lock somebody else out of their own.
/// </summary>
public sealed class SignIn(Store store, Passwords passwords, SharedTries tries, TimeProvider time, ILogger<SignIn> log)
{
    private readonly Throttle byNetwork = new(time, 10, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
    private readonly Throttle byName = new(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
    private readonly Throttle byMember = new(time, 20, TimeSpan.FromMinutes(2), TimeSpan.FromHours(2));

    /// <summary>Tries a name and password from a network.</summary>
    public async Task<Tried> TryAsync(string name, string password, TryFrom from, CancellationToken stop)
    {
        name = MemberCommands.NormaliseEmail(name) ?? name.Trim().ToLowerInvariant();
        // No account has a name that long, or with what no text may hold.
        var member = name.Length is 0 or > 254 || !Core.PlainText.IsClean(name) ? null : await store.MemberByNameAsync(name, stop);
        var who = member?.Id.ToString() ?? (name.Length > 254 ? name[..254] : name);
        var spared = member is not null && from.Browser.Knows(member.Id);
        // By network, by who it is and from where, and by who it is wherever from: always in this order, so that no two wait for each other.
        var steps = new List<TryStep> { new(byNetwork, "network", from.Network),
            new(byName, "name", spared ? $"{from.Browser.Id} {who}" : $"{from.Network} {who}") };
        steps.AddRange(spared ? [] : [new TryStep(byMember, "member", who)]);
        await tries.LearnAsync(steps, stop);
        var (tried, wrong) = await ProveAsync(member, password, steps, stop);
        if (!wrong)
        {
            return tried;
        }

        await tries.CountAsync(steps);
        log.LogInformation("Refused a sign-in from {Network}", from.Network);
        return new Tried(null, steps.Max(s => s.Throttle.WaitOf(s.Name)), steps.Min(s => s.Throttle.FreeLeft(s.Name)));
    }

    /// <summary>Begins the try under each of its names, looks at it, ends it; and says whether it was wrong.</summary>
    private async Task<(Tried Tried, bool Wrong)> ProveAsync(Member? member, string password, IReadOnlyList<TryStep> steps, CancellationToken stop)
    {
        var begun = new List<TryStep>();
        var wrong = true;
        try
        {
            foreach (var step in steps)
            {
                if (await step.Throttle.BeginAsync(step.Name, stop) is { Ticks: > 0 } wait)
                {
                    // Nobody looked at it.
                    wrong = false;
                    return (new Tried(null, wait, 0), false);
                }

                begun.Add(step);
            }

            var proved = await passwords.ProvesAsync(password.Length > MemberCommands.LongestPassword ? "" : password, member?.PasswordHash, stop);
            if (proved && member is { Status: MemberStatus.Active })
            {
                wrong = false;
                // Where other machines have counted wrong ones meanwhile, this one may be out of tries by now, right or not.
                var late = await tries.LearnAsync(steps, stop) ? steps.Max(s => s.Throttle.WaitOf(s.Name)) : TimeSpan.Zero;
                return (new Tried(late > TimeSpan.Zero ? null : member, late, 0), false);
            }
        }
        catch (BusyException)
        {
            wrong = false;
            return (new Tried(null, TimeSpan.Zero, 0, true), false);
        }
        finally
        {
            begun.ForEach(s => s.Throttle.End(s.Name, wrong));
        }

        return (new Tried(null, TimeSpan.Zero, 0), true);
    }
}
