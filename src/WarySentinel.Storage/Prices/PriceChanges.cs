using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Core.Prices;
using WarySentinel.Storage.Access;

namespace WarySentinel.Storage.Prices;

/// <summary>How prices, coupons and carts are stored.</summary>
internal static class PriceChanges
{
    public static void Register(Writers writers)
    {
        writers.On<PriceListPut>((w, put) => w.PutAsync(PriceListRow.Of(put.List), put.List.Key));
        writers.On<PriceListDropped>((w, dropped) => w.Db.PriceLists.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.On<CouponPut>((w, put) => w.PutAsync(CouponRow.Of(put.Coupon), put.Coupon.Key));
        writers.On<CouponDropped>((w, dropped) => w.Db.Coupons.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.On<CartPut>((w, put) => w.PutAsync(CartRow.Of(put.Cart), put.Cart.Key));
        writers.On<CartDropped>((w, dropped) => w.Db.Carts.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.Also<FactReplaced>(async (w, replaced) =>
        {
            await AudienceChanges.ReplaceAsync(w, replaced, w.Db.PriceLists, r => r.Audience, (r, audience) => r.Audience = audience);
            await AudienceChanges.ReplaceAsync(w, replaced, w.Db.Coupons, r => r.Audience, (r, audience) => r.Audience = audience);
        });
        writers.Gather<CouponUsed>((w, used) => w.Rows.Insert(CouponUseRow.Of(used.Use)));
        writers.On<CouponUseReturned>((w, returned) => w.Db.CouponUses.Where(r => r.Id == returned.Id).ExecuteDeleteAsync(w.Stop));
        // How often a coupon was used stays, by whom goes.
        writers.Also<MemberErased>((w, erased) => w.Db.CouponUses.Where(r => r.Person == erased.Member.ToString() || r.Person == erased.Email)
            .ExecuteUpdateAsync(r => r.SetProperty(u => u.Person, ""), w.Stop));
    }
}
