using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Files;

/// <summary>Lets in whom the gates of an item let have what is kept here of it, and answers the others as everywhere.</summary>
public sealed class ItemDoor(VisitorReader visitors, BasicCredentials basic, Refusals refusals, IFirstUse uses)
{
    /// <summary>Who asks, where the gates of the item let them; else they are answered, and nobody is given back.</summary>
    /// <param name="http">The request.</param>
    /// <param name="policy">The policy.</param>
    /// <param name="item">The item.</param>
    /// <param name="acts">What they would do.</param>
    /// <param name="back">Where they come back to once they are let in, on this site.</param>
    /// <param name="now">The time.</param>
    public async Task<RequestIdentity?> MayAsync(HttpContext http, Policy policy, ItemId item, Acts acts, string back, DateTimeOffset now)
    {
        var identity = await visitors.ReadAsync(http);
        var at = identity.At ?? now;
        if (policy.Allows(identity.Visitor, item, acts, at))
        {
            if (identity.Visitor.MayStart)
            {
                await uses.OpenedAsync(identity, policy, v => policy.Allows(v, item, acts, at), at);
            }

            return identity;
        }

        if (OwnPathOf(policy, item) is { } own && await basic.ReadAsync(http, identity, policy, own, at) is { } proved)
        {
            identity = proved;
        }

        var decision = policy.Decide(identity.Visitor, item, acts, at);
        if (decision is { Problem: null, Value.Allowed: true })
        {
            return identity;
        }

        if (decision.Problem is not null || !RequestPath.TryNormalise(back, policy.Settings.Paths, out var path, out _))
        {
            await refusals.NotFoundAsync(http);
            return null;
        }

        await refusals.RespondAsync(http, identity, policy, decision.Value, path);
        return null;
    }

    /// <summary>An address of the item, by which its gates take names and passwords that come with requests.</summary>
    private static RequestPath? OwnPathOf(Policy policy, ItemId item) => policy.Graph.Find(item)?.Addresses.FirstOrDefault(a => !a.IsPattern) is { } address
        && RequestPath.TryNormalise(address.Text, policy.Settings.Paths, out var path, out _) ? path : null;
}
