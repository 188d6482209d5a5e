using WarySentinel.Core.Access;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.Gates;

/// <summary>Reads what gate commands need to know beside the policy.</summary>
public sealed class SurroundingsReader(PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time)
{
    /// <summary>The keys that these expressions may name, addresses that are ours, and the owners who must not be locked out.</summary>
    public async Task<GateSurroundings> ReadAsync(Policy policy, IEnumerable<string> audiences, CancellationToken stop)
    {
        var owners = await store.ActiveWithRoleAsync("owner", stop);
        return new GateSurroundings(
            await policies.KnownKeysAsync(policy, audiences, stop), options.Reserved, [.. owners.Select(o => o.AsVisitor())], time.GetUtcNow());
    }
}
