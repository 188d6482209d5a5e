namespace WarySentinel.StandIns.Payments;

/// <summary>An order as the payment processor has it.</summary>
public sealed class PaymentOrder
{
    /// <summary>Its name.</summary>
    public required string Id { get; init; }

    /// <summary>What is bought.</summary>
    public required string Code { get; set; }

    /// <summary>How many.</summary>
    public int Quantity { get; init; } = 1;

    /// <summary>What one payment is, in cents.</summary>
    public required int Cents { get; set; }

    /// <summary>Who pays.</summary>
    public required string Email { get; init; }

    /// <summary>How they are called.</summary>
    public string? Name { get; init; }

    /// <summary>Who is given it, where it is a present.</summary>
    public string? GiftEmail { get; init; }

    /// <summary>On which day.</summary>
    public string? GiftOn { get; init; }

    /// <summary>The words with it.</summary>
    public string? GiftWords { get; init; }

    /// <summary>What the shop wants brought back.</summary>
    public string? Token { get; init; }

    /// <summary>What has happened, the first first: kind, and cents where there are any.</summary>
    public List<string> Story { get; } = [];
}

/// <summary>A call that is to be made: signed anew each time, with the same id.</summary>
/// <param name="Id">The name of the event.</param>
/// <param name="Body">The CloudEvent.</param>
public sealed record PaymentCall(string Id, byte[] Body);
