using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Accounts whose address was never proved go away by themselves, as if they had never been asked for.</summary>
public sealed class UnprovedAccounts(Store store, PeopleLane people, PolicyHolder policies, TimeProvider time)
{
    private const int AtOnce = 200;
    private const string Turn = "unproved";
    private static readonly TimeSpan Every = TimeSpan.FromHours(1);

    /// <summary>Whether an hour has passed.</summary>
    public Task<bool> IsDueAsync(CancellationToken stop) => store.IsTurnFreeAsync(Turn, time.GetUtcNow() - Every, stop);

    /// <summary>Removes those that are due, once an hour, on one machine.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        if (await store.TakeTurnAsync(Turn, time.GetUtcNow() - Every, stop))
        {
            await RemoveAsync(stop);
        }
    }

    /// <summary>Removes those that are due; gives how many.</summary>
    public async Task<int> RemoveAsync(CancellationToken stop)
    {
        var (removed, after, before) = (0, (string?)null, time.GetUtcNow() - Joining.UnprovedLasts);
        while (await store.MembersAsync(new MemberQuery(after, AtOnce, null, MemberStatus.Unverified) { Joined = new Span(null, before) }, stop)
            is { Count: > 0 } due)
        {
            // Those whom staff made wait for staff.
            foreach (var member in due.Where(m => m.Cause?.By == m.Email))
            {
                var gone = await people.ChangeAsync(
                    async () => await store.MemberAsync(member.Id, stop) is { Status: MemberStatus.Unverified } still
                            && !(await store.RequestAsync(still.Id, stop) is { State: RequestState.Held } held
                                && held.At > time.GetUtcNow() - Joining.HeldLasts)
                        ? AccountCommands.Erase(policies.Current, still, time.GetUtcNow()) : Core.Problem.Of(Core.ProblemKind.Conflict, "link-status", ""),
                    "unproved");
                removed += gone.IsGood ? 1 : 0;
            }

            after = due[^1].Email;
        }

        return removed;
    }
}
