using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;

namespace WarySentinel.Service.Orders;

/// <summary>Where plans are bought: by the stock code of a rule that gives just that plan, where somebody has a page for paying.</summary>
public sealed class PlanSales(PolicyHolder policies, ServiceOptions options) : IPlanSales
{
    /// <inheritdoc/>
    public string? AddressOf(string plan)
    {
        var policy = policies.Current;
        return FulfilmentBook.Of(policy).CodeOf(plan) is { } code && OrderSourceBook.Of(policy).All.Any(s => s.Checkout is not null)
            ? $"{options.AccountPrefix}/pay?code={Uri.EscapeDataString(code)}" : null;
    }
}
