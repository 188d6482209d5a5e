using WarySentinel.StandIns.Shop;

// The simulated outside world of the demo and the tests. It knows nothing of Wary Sentinel.
var arguments = args.ToList();
var data = Value("--data") ?? "demo";
var shop = Value("--shop") ?? "http://127.0.0.1:7410";
try
{
    await ShopSite.Build(Path.Combine(data, "shop"), shop).RunAsync();
    return 0;
}
catch (IOException fault)
{
    await Console.Error.WriteLineAsync("stand-ins: " + fault.Message);
    return 2;
}

string? Value(string name) => arguments.IndexOf(name) is >= 0 and var at && at + 1 < arguments.Count ? arguments[at + 1] : null;
