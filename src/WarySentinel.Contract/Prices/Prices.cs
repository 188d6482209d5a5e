namespace WarySentinel.Contract.Prices;

/// <summary>A line of a price list.</summary>
/// <param name="Item">The item, such as <c>product:sky-1</c>, with all beneath it that has no nearer line.</param>
/// <param name="Quantity">From which quantity on; 1 unless said.</param>
/// <param name="Price">The price of one in decimals, such as <c>12.90</c>.</param>
/// <param name="Off">Or percent off the usual price, such as <c>15</c>.</param>
public sealed record PriceLine(string? Item, int? Quantity = null, string? Price = null, string? Off = null);

/// <summary>What things cost for an audience.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Audience">Whom it is for; <c>anyone</c> says the usual prices.</param>
/// <param name="Currency">The currency (ISO 4217).</param>
/// <param name="From">Since when it counts.</param>
/// <param name="Until">Until when it counts.</param>
/// <param name="Rounding">What reckoned prices are whole multiples of; null for the smallest unit of the currency.</param>
/// <param name="Count">How many lines it has.</param>
/// <param name="Lines">Its lines; null in a list of lists.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record PriceListView(
    string Key, string Title, string Audience, string Currency, DateTimeOffset? From, DateTimeOffset? Until, string? Rounding, int Count,
    IReadOnlyList<PriceLine>? Lines, int Version);

/// <summary>A price list to be stored.</summary>
/// <param name="Title">What people call it; its key unless said.</param>
/// <param name="Audience">Whom it is for: an audience expression; everybody unless said.</param>
/// <param name="Currency">The currency (ISO 4217).</param>
/// <param name="From">Since when it counts: a moment, or a day in the site's time zone.</param>
/// <param name="Until">Until when it counts: a moment, or a day that is the last to count.</param>
/// <param name="Rounding">What reckoned prices are whole multiples of, such as <c>0.05</c>.</param>
/// <param name="Lines">Its lines; those that there are stay unless said.</param>
public sealed record PriceListDraft(
    string? Title = null, string? Audience = null, string? Currency = null, string? From = null, string? Until = null, string? Rounding = null,
    IReadOnlyList<PriceLine>? Lines = null);

/// <summary>What a file of prices would make, or made.</summary>
/// <param name="Rows">How many rows it has.</param>
/// <param name="Added">Lines that were not there.</param>
/// <param name="Changed">Lines that say another price.</param>
/// <param name="Dropped">Lines that the file does not have.</param>
/// <param name="Stored">Whether it was stored.</param>
/// <param name="Version">The version of the list after it.</param>
public sealed record PriceImportView(int Rows, int Added, int Changed, int Dropped, bool Stored, int Version);

/// <summary>A line of a cart.</summary>
/// <param name="Item">What.</param>
/// <param name="Quantity">How many; 1 unless said.</param>
public sealed record CartLine(string? Item, int? Quantity = null);

/// <summary>What somebody's cart would cost.</summary>
/// <param name="Visitor">Who pays: <c>guest</c> (unless said), an address, <c>role:dealer</c> …</param>
/// <param name="Lines">What is in it.</param>
/// <param name="Currency">In which currency; that of the first line that has a price unless said.</param>
/// <param name="Coupon">A code that they typed.</param>
/// <param name="Person">The buyer's e-mail address, where they are no member.</param>
/// <param name="At">The time to reckon for; now unless said.</param>
public sealed record QuoteQuestion(
    string? Visitor = null, IReadOnlyList<CartLine>? Lines = null, string? Currency = null, string? Coupon = null, string? Person = null, string? At = null);

/// <summary>A line of a quote.</summary>
/// <param name="Item">What.</param>
/// <param name="Quantity">How many.</param>
/// <param name="MayPrice">Whether they may know its price.</param>
/// <param name="MayBuy">Whether they may buy it; what they may not is in no sum.</param>
/// <param name="Price">What one costs.</param>
/// <param name="Usual">What one costs everybody, where a list says so.</param>
/// <param name="List">The list that says the price.</param>
/// <param name="Total">What the line costs, before the coupon.</param>
/// <param name="Discount">What the coupon takes off it.</param>
public sealed record QuoteLine(
    string Item, int Quantity, bool MayPrice, bool MayBuy, string? Price, string? Usual, string? List, string? Total, string? Discount);

/// <summary>What somebody's cart costs.</summary>
/// <param name="Who">Who pays, as a sentence calls them.</param>
/// <param name="Lines">Its lines, as they were asked.</param>
/// <param name="Currency">The currency (ISO 4217).</param>
/// <param name="Sum">What may be bought costs, before the coupon.</param>
/// <param name="Discount">What the coupon takes off.</param>
/// <param name="Total">What is to be paid of it.</param>
/// <param name="Coupon">The coupon, where it counts.</param>
/// <param name="CouponFault">Why it does not count.</param>
public sealed record QuoteView(
    string Who, IReadOnlyList<QuoteLine> Lines, string? Currency, string? Sum, string? Discount, string? Total, string? Coupon, string? CouponFault);

/// <summary>A code that takes something off a cart, for an audience.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Code">What is typed in the cart.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Audience">Who may use it.</param>
/// <param name="Off">Percent off.</param>
/// <param name="Amount">Or the amount off the whole cart.</param>
/// <param name="Currency">The currency of the amount.</param>
/// <param name="Items">What it counts for; everything where none is named.</param>
/// <param name="From">Since when it counts.</param>
/// <param name="Until">Until when it counts.</param>
/// <param name="PerPerson">How often one person uses it; null for any number of times.</param>
/// <param name="Most">How often it is used by all together; null for any number of times.</param>
/// <param name="Used">How often it was used.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record CouponView(
    string Key, string Code, string Title, string Audience, string? Off, string? Amount, string? Currency, IReadOnlyList<string> Items, DateTimeOffset? From,
    DateTimeOffset? Until, int? PerPerson, int? Most, int Used, int Version);

/// <summary>A coupon to be stored.</summary>
/// <param name="Code">What is typed in the cart; its key in capital letters unless said.</param>
/// <param name="Title">What people call it; its code unless said.</param>
/// <param name="Audience">Who may use it: an audience expression; everybody unless said.</param>
/// <param name="Off">Percent off, such as <c>10</c>.</param>
/// <param name="Amount">Or an amount off the whole cart in decimals, such as <c>5.00</c>.</param>
/// <param name="Currency">The currency of the amount (ISO 4217).</param>
/// <param name="Items">What it counts for, with all beneath; everything unless said.</param>
/// <param name="From">Since when it counts.</param>
/// <param name="Until">Until when it counts.</param>
/// <param name="PerPerson">How often one person uses it: a number or <c>any</c>; once unless said.</param>
/// <param name="Most">How often it is used by all together; any number of times unless said.</param>
public sealed record CouponDraft(
    string? Code = null, string? Title = null, string? Audience = null, string? Off = null, string? Amount = null, string? Currency = null,
    IReadOnlyList<string>? Items = null, string? From = null, string? Until = null, string? PerPerson = null, int? Most = null);

/// <summary>A coupon to be used for an order.</summary>
/// <param name="Code">What was typed.</param>
/// <param name="Order">The shop's name for the order: said again, nothing is used twice.</param>
/// <param name="Visitor">Who pays: an address or id of a member, or <c>guest</c> (unless said).</param>
/// <param name="Person">The buyer's e-mail address, where they are no member.</param>
/// <param name="Amount">What it took off, in decimals.</param>
/// <param name="Currency">The currency of that (ISO 4217).</param>
public sealed record CouponUseDraft(
    string? Code, string? Order, string? Visitor = null, string? Person = null, string? Amount = null, string? Currency = null);

/// <summary>A use of a coupon.</summary>
/// <param name="Coupon">The coupon's key.</param>
/// <param name="Order">The shop's name for the order.</param>
/// <param name="Person">Who used it: their address; empty where they were erased.</param>
/// <param name="Serial">Counts the uses of the coupon.</param>
/// <param name="At">When.</param>
/// <param name="Discount">What it took off, where the shop said.</param>
/// <param name="Currency">The currency of that.</param>
public sealed record CouponUseView(string Coupon, string Order, string Person, int Serial, DateTimeOffset At, string? Discount, string? Currency);

/// <summary>Where the shop takes things into a cart.</summary>
/// <param name="Key">Its name.</param>
/// <param name="At">The addresses to which the shop's forms and scripts send.</param>
/// <param name="Fields">The fields that name what is bought; a star in one stands for anything.</param>
/// <param name="Item">What a value stands for, such as <c>product:{value}</c> or <c>/shop/item?id={value}</c>.</param>
/// <param name="Unknown">What becomes of what the catalogue does not have: <c>refuse</c> or <c>pass</c>.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record CartView(string Key, IReadOnlyList<string> At, IReadOnlyList<string> Fields, string Item, string Unknown, int Version);

/// <summary>A cart to be stored.</summary>
/// <param name="At">The addresses to which the shop's forms and scripts send; a star stands for a segment.</param>
/// <param name="Fields">The fields that name what is bought; a star in one stands for anything.</param>
/// <param name="Item">What a value stands for; <c>product:{value}</c> unless said.</param>
/// <param name="Unknown">What becomes of what the catalogue does not have: <c>refuse</c> or <c>pass</c>; <c>refuse</c> unless said.</param>
public sealed record CartDraft(
    IReadOnlyList<string>? At = null, IReadOnlyList<string>? Fields = null, string? Item = null, string? Unknown = null);
