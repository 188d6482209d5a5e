using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Prices;
using WarySentinel.Storage.Prices;

namespace WarySentinel.Storage;

/// <summary>Who used which coupon.</summary>
public sealed partial class Store
{
    /// <summary>What is known of the uses of a coupon when one more is asked for.</summary>
    /// <param name="coupon">The coupon's key.</param>
    /// <param name="names">All that stands for whoever asks.</param>
    /// <param name="order">The order's name; null where it is for none yet.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<CouponUses> CouponUsesAsync(string coupon, IReadOnlyList<string> names, string? order, CancellationToken stop)
    {
        await using var db = open();
        var of = db.CouponUses.AsNoTracking().Where(u => u.Coupon == coupon);
        var there = order is null ? null : await of.FirstOrDefaultAsync(u => u.Order == order, stop);
        var last = await of.MaxAsync(u => (int?)u.Serial, stop) ?? 0;
        return new CouponUses(
            await of.CountAsync(stop), names.Count == 0 ? 0 : await of.CountAsync(u => names.Contains(u.Person), stop), last, there?.ToUse());
    }

    /// <summary>The uses of a coupon, newest first.</summary>
    /// <param name="coupon">The coupon's key.</param>
    /// <param name="before">Only those with a lower serial; null from the newest on.</param>
    /// <param name="most">How many at most.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<CouponUse>> CouponUseListAsync(string coupon, int? before, int most, CancellationToken stop)
    {
        await using var db = open();
        var rows = await db.CouponUses.AsNoTracking().Where(u => u.Coupon == coupon && (before == null || u.Serial < before))
            .OrderByDescending(u => u.Serial).Take(most).ToListAsync(stop);
        return [.. rows.Select(r => r.ToUse())];
    }

    /// <summary>How often each coupon was used.</summary>
    public async Task<IReadOnlyDictionary<string, int>> CouponCountsAsync(CancellationToken stop)
    {
        await using var db = open();
        return await db.CouponUses.AsNoTracking().GroupBy(u => u.Coupon).Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
    }
}
